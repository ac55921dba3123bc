import XMLBuilder from 'fast-xml-builder';
import { XMLParser } from 'fast-xml-parser';

/** One file of a hash list. */
export interface HashedFile {
  /** Path below the list's folder, parts joined by /. */
  readonly path: string;
  readonly bytes: number;
  readonly modifiedAt: Date;
  /** xxHash64, seed 0, as 16 hexadecimal digits. */
  readonly xxh64: string;
  readonly hashedAt: Date;
}

/** A folder with the hashes of what is in it and of its names. The path is empty for the folder that the list is of. */
export interface HashedFolder {
  readonly path: string;
  readonly content: string;
  readonly structure: string;
}

export interface HashList {
  readonly createdAt: Date;
  readonly host: string;
  readonly toolVersion: string;
  readonly files: readonly HashedFile[];
  /** Hashed by xxHash64; none where they were not worked out. */
  readonly folders?: readonly HashedFolder[];
}

const namespace = 'urn:ASC:MHL:v2.0';
const head = '<?xml version="1.0" encoding="UTF-8"?>\n';
const builder = new XMLBuilder({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  format: true,
  indentBy: '  ',
  suppressEmptyNode: true,
});

/** Time as XML states it, without fractions: 2026-11-25T09:15:00Z. */
function xmlTime(time: Date): string {
  return time.toISOString().replace(/\.\d+Z$/, 'Z');
}

/** Folder beside what lists are of, in which they lie. */
export const listFolder = 'ascmhl';

/** Name of the tool in lists that are written here. */
export const listTool = 'Navvy';

/** A manifest of the Media Hash List, version 2.0, for files that were transferred. */
export function hashListXml({ createdAt, host, toolVersion, files, folders = [] }: HashList): string {
  const both = ({ content, structure }: HashedFolder) => ({
    content: { xxh64: { '@action': 'original', '@hashdate': xmlTime(createdAt), '#text': content } },
    structure: { xxh64: { '@action': 'original', '@hashdate': xmlTime(createdAt), '#text': structure } },
  });
  const root = folders.find(({ path }) => path === '');
  return (
    head +
    builder.build({
      hashlist: {
        '@version': '2.0',
        '@xmlns': namespace,
        creatorinfo: {
          creationdate: xmlTime(createdAt),
          hostname: host,
          tool: { '@version': toolVersion, '#text': listTool },
        },
        processinfo: {
          process: 'transfer',
          ...(root ? { roothash: both(root) } : {}),
          ignore: { pattern: [listFolder, `${listFolder}/`] },
        },
        hashes: {
          hash: files.map(({ path, bytes, modifiedAt, xxh64, hashedAt }) => ({
            path: { '@size': String(bytes), '@lastmodificationdate': xmlTime(modifiedAt), '#text': path },
            xxh64: { '@action': 'original', '@hashdate': xmlTime(hashedAt), '#text': xxh64 },
          })),
          directoryhash: folders
            .filter(({ path }) => path !== '')
            .map((folder) => ({ path: folder.path, ...both(folder) })),
        },
      },
    })
  );
}

/** One generation in the chain of a folder's hash lists. */
export interface ChainEntry {
  readonly sequence: number;
  /** File name of the manifest. */
  readonly path: string;
  /** C4 identifier of the manifest's bytes. */
  readonly c4: string;
}

/** The chain file that names all manifests of a folder. */
export function chainXml(entries: readonly ChainEntry[]): string {
  return (
    head +
    builder.build({
      ascmhldirectory: {
        '@xmlns': 'urn:ASC:MHL:DIRECTORY:v2.0',
        hashlist: entries.map(({ sequence, path, c4 }) => ({ '@sequencenr': String(sequence), path, c4 })),
      },
    })
  );
}

const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  parseTagValue: false,
  isArray: (name) => name === 'hash' || name === 'hashlist',
});

/**
 * Entries of a chain file.
 * @throws SyntaxError when the text is no chain
 */
export function readChain(xml: string): ChainEntry[] {
  let document: { ascmhldirectory?: { hashlist?: { '@sequencenr': string; path: string; c4: string }[] } };
  try {
    document = parser.parse(xml) as typeof document;
  } catch (error) {
    throw new SyntaxError('This is no chain of media hash lists: it is not XML.', { cause: error });
  }
  if (!document.ascmhldirectory)
    throw new SyntaxError('This is no chain of media hash lists: its first element is not ascmhldirectory.');
  return (document.ascmhldirectory.hashlist ?? []).map((entry) => ({
    sequence: Number(entry['@sequencenr']),
    path: entry.path,
    c4: entry.c4,
  }));
}

const c4Digits = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz';

/** C4 identifier (SMPTE ST 2114) of a SHA-512 digest of 64 bytes: "c4" and 88 digits to the base 58. */
export function c4Id(sha512: Uint8Array): string {
  let value = sha512.reduce((sum, byte) => (sum << 8n) | BigInt(byte), 0n);
  let digits = '';
  for (let place = 0; place < 88; place++) {
    digits = (c4Digits[Number(value % 58n)] ?? '1') + digits;
    value /= 58n;
  }
  return `c4${digits}`;
}
