import { decodingWords, type Decoding } from '../../decode/decoding';
import { quantity } from '../../format';
import type { CacheWay } from '../../media/coldProof';

/** A setting that is no condition of its own, with the reason. */
export interface Aside {
  readonly aside: string;
}

/**
 * How each setting of a kind of trial is told as a condition, by name and in words, or why it is none. A setting that
 * is forgotten does not compile: two trials that differ in it would count as alike.
 */
export type Told<Settings> = {
  readonly [Key in Exclude<keyof Settings, 'kind'>]-?:
    | ((value: Settings[Key], settings: Settings) => Readonly<Record<string, string>>)
    | Aside;
};

/** Settings as conditions, by name and in words. */
export function toldWords<Settings extends object>(
  told: Told<Settings>,
  settings: Settings,
): Readonly<Record<string, string>> {
  const values = new Map<string, unknown>(Object.entries(settings));
  const tellers = Object.entries<
    ((value: unknown, settings: Settings) => Readonly<Record<string, string>>) | Aside
  >(told as never);
  return Object.assign(
    {},
    ...tellers.map(([key, tell]) => (typeof tell === 'function' ? tell(values.get(key), settings) : {})),
  ) as Readonly<Record<string, string>>;
}

export const aside = (reason: string): Aside => ({ aside: reason });

export const threadsTold = (count: number) => ({
  'Decoder threads': count === 0 ? 'one per core' : String(count),
});
export const cacheTold = (warm: boolean) => ({ 'System cache': warm ? 'warm, on purpose' : 'cold' });
/** The same of what can also be read cold through the cache. */
export const readTold = (warm: boolean, { cache }: { readonly cache?: CacheWay }) => ({
  'System cache': warm ? 'warm, on purpose' : cache === 'through' ? 'cold, read through it' : 'cold',
});
export const underWayTold = (requests: number | undefined) => ({ 'Reads under way': String(requests ?? 1) });
export const scaleTold = (value: string) => ({ 'Playback scale': value });
export const mostTold = (most: number) => ({ 'Most tried': String(most) });
export const stepTold = (seconds: number) => ({ 'Length of a step': quantity(seconds, 's') });
export const passTold = (seconds: number) => ({ 'Length of a pass': quantity(seconds, 's') });
/** How pictures are worked on. */
export const workedTold = {
  depth: aside('told with the formats, as what it comes to with them'),
  fields: aside('told where what was played has fields'),
};
export const decodingTold = (decoding: Decoding | undefined) => ({ Device: decodingWords(decoding) });
