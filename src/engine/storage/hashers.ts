import { createHash } from 'node:crypto';
import { createXXHash128, createXXHash3, createXXHash32, createXXHash64 } from 'hash-wasm';
import { c4Id } from '@/core/formats/hashLists/write';
import type { HashOf } from '@/core/formats/hashLists/folders';
import type { HashName } from '@/core/formats/hashLists/hashes';

/** A hash that bytes are added to. */
export interface Hasher {
  /** Begins anew. */
  begin(): void;
  /** @param bytes a text counts as UTF-8 */
  update(bytes: string | Uint8Array): void;
  /** In small hexadecimal letters; a C4 identifier as it is. */
  digest(): string;
}

/** A hash that Node.js has. */
function ofNode(
  algorithm: string,
  written: (digest: Buffer) => string = (digest) => digest.toString('hex'),
): Hasher {
  let hash = createHash(algorithm);
  return {
    begin: () => {
      hash = createHash(algorithm);
    },
    update: (bytes) => void hash.update(bytes),
    digest: () => written(hash.digest()),
  };
}

const makers: Readonly<Record<HashName, () => Hasher | Promise<Hasher>>> = {
  c4: () => ofNode('sha512', c4Id),
  sha512: () => ofNode('sha512'),
  sha256: () => ofNode('sha256'),
  sha1: () => ofNode('sha1'),
  md5: () => ofNode('md5'),
  xxh128: async () => ofWasm(await createXXHash128()),
  xxh3: async () => ofWasm(await createXXHash3()),
  xxh64: async () => ofWasm(await createXXHash64()),
  xxh32: async () => ofWasm(await createXXHash32()),
};

function ofWasm(hash: Awaited<ReturnType<typeof createXXHash64>>): Hasher {
  hash.init();
  return {
    begin: () => void hash.init(),
    update: (bytes) => void hash.update(bytes),
    digest: () => hash.digest('hex'),
  };
}

/** A hash of a kind, begun. */
export const hasher = (name: HashName): Promise<Hasher> => Promise.resolve(makers[name]());

/** Hashes of some parts at once, in kinds that are named beforehand. */
export async function hashOfParts(names: readonly HashName[]): Promise<HashOf> {
  const made = new Map<HashName, Hasher>();
  for (const name of names) made.set(name, await hasher(name));
  return (name, parts) => {
    const one = made.get(name);
    if (!one) throw new Error(`The hash ${name} was not asked for.`);
    one.begin();
    for (const part of parts) one.update(part);
    return one.digest();
  };
}
