import canonicalize from 'canonicalize';
import type { BundleHashes } from './bundleTypes';

/** SHA-256 of a text's UTF-8, as 64 hexadecimal digits. */
export type Sha256 = (text: string) => string;

/** The lists of a bundle whose entries are hashed one by one. */
export const hashedLists = ['volumes', 'looks', 'timelines', 'plans', 'trials'] as const;

type Document = Readonly<Record<string, unknown>>;

/** @param value JSON without anything that JSON has no form for */
const hashOf = (value: unknown, sha256: Sha256) => sha256(canonicalize(value) as string);

/** The hashes of a bundle as its JSON is written. An absent list is empty. */
export function bundleHashes(bundle: Document, sha256: Sha256): BundleHashes {
  const hashes = Object.fromEntries(
    hashedLists.map((list) => [
      list,
      ((bundle[list] ?? []) as readonly unknown[]).map((entry) => hashOf(entry, sha256)),
    ]),
  ) as unknown as Omit<BundleHashes, 'whole'>;
  return { ...hashes, whole: hashOf({ ...headOf(bundle), hashes }, sha256) };
}

const headOf = (bundle: Document): Document =>
  Object.fromEntries(
    Object.entries(bundle).filter(
      ([field]) => field !== 'hashes' && !(hashedLists as readonly string[]).includes(field),
    ),
  );

/** Where a bundle first is not what its hashes are of, as a path: a list, an entry of one, or nothing for the rest; null where all is. */
export function changedPlace(
  bundle: Document & { readonly hashes: BundleHashes },
  sha256: Sha256,
): readonly string[] | null {
  const now = bundleHashes(bundle, sha256);
  for (const list of hashedLists) {
    const then = bundle.hashes[list];
    if (now[list].length !== then.length) return [list];
    const index = now[list].findIndex((hash, at) => hash !== then[at]);
    if (index !== -1) return [list, `${index}`];
  }
  return now.whole === bundle.hashes.whole ? null : [];
}
