/** Hashes that lists name and that are computed here, the surest first. */
export const hashNames = [
  'c4',
  'sha512',
  'sha256',
  'sha1',
  'md5',
  'xxh128',
  'xxh3',
  'xxh64',
  'xxh32',
] as const;
export type HashName = (typeof hashNames)[number];

/** Hexadecimal digits of each; C4 identifiers are digits to the base 58. */
const digits: Readonly<Record<Exclude<HashName, 'c4'>, number>> = {
  sha512: 128,
  sha256: 64,
  sha1: 40,
  md5: 32,
  xxh128: 32,
  xxh3: 16,
  xxh64: 16,
  xxh32: 8,
};

export interface Hash {
  readonly name: HashName;
  /** In small letters; a C4 identifier as it is. */
  readonly value: string;
  /** The list does not say in which order its bytes are: they may be either way round. */
  readonly eitherOrder?: boolean;
}

/** Whether a text can be a hash of a kind. */
export const isHash = (name: HashName, text: string): boolean =>
  name === 'c4'
    ? /^c4[1-9A-HJ-NP-Za-km-z]{88}$/.test(text)
    : text.length === digits[name] && /^[0-9A-Fa-f]+$/.test(text);

const turned = (hex: string) => (hex.match(/../g) ?? []).toReversed().join('');

/** What may be computed where a hash is right: its value, and that turned round where the list leaves the order of bytes open. */
export const writings = ({ value, eitherOrder }: Hash): readonly string[] =>
  eitherOrder === true ? [value, turned(value)] : [value];

/** Whether what was computed is the hash that a list has. @param computed in small letters, of the same kind */
export const isSame = (hash: Hash, computed: string): boolean => writings(hash).includes(computed);
