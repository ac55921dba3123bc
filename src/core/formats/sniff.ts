import { bundleFormat } from './bundleTypes';

/** Kinds of files that come in through any page. */
export type IncomingKind = 'timeline' | 'look' | 'bundle' | 'hash-list';

/** Of a file's beginning, characters that tell its kind. */
export const tellingCharacters = 4_096;

/**
 * What a file is, by how it begins, and by its name only where that leaves it open.
 * @param head its first characters, as text @returns null for what is none of the kinds that can be read
 */
export function incomingKind(name: string, head: string): IncomingKind | null {
  const text = head.replace(/^\uFEFF/, '').trimStart();
  if (text.startsWith('{')) {
    if (text.includes(`"${bundleFormat}"`)) return 'bundle';
    if (text.includes('"OTIO_SCHEMA"')) return 'timeline';
    return /\.otio$/i.test(name) ? 'timeline' : /bundle|results/i.test(name) ? 'bundle' : null;
  }
  if (text.startsWith('<')) return /<(\w+:)?hashlist[\s>]/.test(text) ? 'hash-list' : null;
  if (/^\s*LUT_[13]D_SIZE\s/m.test(text)) return 'look';
  if (
    /^\s*FCM:/m.test(text) ||
    /^\d{1,6}\s+\S.*\s[VAB]\S*\s+[CDWK]\S*\s.*\d\d[:;.]\d\d[:;.]\d\d[:;.]\d\d/m.test(text)
  )
    return 'timeline';
  if (
    /^\\?[0-9a-f]{8,128} [ *]\S/im.test(text) ||
    /^[A-Z][A-Z0-9_-]{2,9} ?\(.+\) ?= ?[0-9a-f]{8,128}\s*$/im.test(text)
  )
    return 'hash-list';
  const byName: readonly (readonly [RegExp, IncomingKind])[] = [
    [/\.(edl|otio)$/i, 'timeline'],
    [/\.cube$/i, 'look'],
    [/\.(mhl|md5|sha\d+|xxh\w*)$/i, 'hash-list'],
  ];
  return byName.find(([pattern]) => pattern.test(name))?.[1] ?? null;
}
