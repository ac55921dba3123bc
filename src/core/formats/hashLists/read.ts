import { XMLParser } from 'fast-xml-parser';
import { SyntaxValidator } from 'fast-xml-validator';
import { isRecord } from '../../record';
import { LineError } from '../lineError';
import type { CoreCode } from '../../words';
import { hashNames, isHash, type Hash, type HashName } from './hashes';

/** What is wrong in a hash list, and where. */
export class HashListError<Code extends CoreCode = CoreCode> extends LineError<Code> {
  override name = 'HashListError';
}

/** A file as a list has it. */
export interface ListedFile {
  /** Below the folder that the list is of, parts joined by /. */
  readonly path: string;
  /** Null where the list does not say. */
  readonly bytes: number | null;
  /** Those that can be computed here, the surest first; empty where the list has none of them. */
  readonly hashes: readonly Hash[];
}

/** A folder as a list has it: hashes of what is in it, and of the names of that. */
export interface ListedFolder {
  /** Empty: the folder that the list is of. */
  readonly path: string;
  readonly content: readonly Hash[];
  readonly structure: readonly Hash[];
}

/** How lists are written. */
export type HashListForm = 'ASC MHL 2.0' | 'MHL 1' | 'checksums';

export interface ReadHashes {
  readonly form: HashListForm;
  /** As the list says it; null where it does not. */
  readonly createdAt: string | null;
  /** What wrote it, as it says. */
  readonly by: string | null;
  readonly files: readonly ListedFile[];
  readonly folders: readonly ListedFolder[];
  /** Patterns of names that the list leaves out on purpose. */
  readonly ignored: readonly string[];
  /** What was read and is not taken, in sentences. */
  readonly notes: readonly string[];
}

/** Most files of one list. */
const mostListed = 500_000;
/** Most levels of elements: lists have six. */
const mostLevels = 32;
/** Notes that are told one by one; the rest is counted. */
const mostNotes = 50;

/**
 * Reads a hash list of any form that is published: ASC MHL 2.0 and MHL 1 (XML), and lists of checksums a line each, with the
 * hash first or as `NAME (path) = hash`.
 * @param fileName tells hashes of the same length apart where lines do not
 * @throws HashListError for what is no list, names no file, or names files outside of its folder
 */
export function readHashes(text: string, fileName: string): ReadHashes {
  const notes = new Notes();
  const isXml = text.trimStart().startsWith('<');
  const read = isXml ? fromXml(text, notes) : fromLines(text, fileName, notes);
  if (read.files.length === 0) throw new HashListError(0, isXml ? 'list-empty' : 'no-hash-list');
  const seen = new Map<string, ListedFile>();
  for (const file of read.files) {
    const had = seen.get(file.path);
    // A path that is named twice says both.
    seen.set(file.path, had ? { ...had, hashes: [...had.hashes, ...file.hashes] } : file);
  }
  return { ...read, files: [...seen.values()], notes: notes.told() };
}

class Notes {
  private readonly all: string[] = [];
  private more = 0;
  add(note: string): void {
    if (this.all.length < mostNotes) this.all.push(note);
    else this.more++;
  }
  told(): readonly string[] {
    return this.more === 0 ? this.all : [...this.all, `${this.more} more notes are left out.`];
  }
}

/** @throws HashListError for a path that leads out of the folder, or to nothing */
function pathOf(given: string, line = 0): string {
  const parts = given.replace(/^\.\//, '').split('/');
  const isOutside =
    given.startsWith('/') || /^[A-Za-z]:[\\/]/.test(given) || parts.includes('..') || given.includes('\0');
  if (isOutside) throw new HashListError(line, 'hash-path-outside', { path: given.slice(0, 200) });
  const path = parts.filter((part) => part !== '' && part !== '.').join('/');
  if (path === '') throw new HashListError(line, 'hash-path-empty');
  return path;
}

type Element = Readonly<Record<string, unknown>>;

const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  textNodeName: '#text',
  parseTagValue: false,
  parseAttributeValue: false,
  removeNSPrefix: true,
  processEntities: true,
  maxNestedTags: mostLevels,
});

/** @throws HashListError with the line where a text stops to be XML */
function assertWhole(text: string): void {
  try {
    SyntaxValidator.validate(text);
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    const line = 'line' in error ? Number(error.line) : 0;
    throw new HashListError(line, 'list-no-xml', { reason: error.message.replace(/\.$/, '') });
  }
}

function fromXml(text: string, notes: Notes): Omit<ReadHashes, 'notes'> {
  // Entities that a file declares for itself are no part of any list.
  if (/<!DOCTYPE|<!ENTITY/i.test(text)) throw new HashListError(0, 'list-declares');
  assertWhole(text);
  let document: Element;
  try {
    document = parser.parse(text) as Element;
  } catch {
    throw new HashListError(0, 'list-no-xml', { reason: 'its elements cannot be read' });
  }
  const list = document.hashlist;
  if (!isRecord(list)) throw new HashListError(0, 'no-hash-list');
  return textOf(list['@version'])?.startsWith('1') ? fromFirst(list, notes) : fromSecond(list, notes);
}

/** The text of an element that may have attributes; null where it has none. */
function textOf(value: unknown): string | null {
  if (typeof value === 'string') return value;
  return isRecord(value) && typeof value['#text'] === 'string' ? value['#text'] : null;
}

/** The elements of one name; one that stands alone is no list in the parser's eyes. */
const all = (value: unknown): readonly unknown[] =>
  value === undefined ? [] : Array.isArray(value) ? value : [value];
const records = (value: unknown): readonly Element[] =>
  all(value).map((one) => (isRecord(one) ? one : { '#text': one }));

function bytesOf(value: unknown): number | null {
  const text = textOf(value);
  return text !== null && /^\d{1,15}$/.test(text.trim()) ? Number(text) : null;
}

/** Hashes among the fields of an element, the surest first. What says that it failed is no hash to hold a file against. */
function hashesIn(element: Element, of: string, notes: Notes): Hash[] {
  const found: Hash[] = [];
  for (const name of hashNames)
    for (const one of records(element[name])) {
      const value = textOf(one)?.trim() ?? '';
      if (textOf(one['@action']) === 'failed')
        notes.add(`${of}: the list says that its ${name} failed; it is not held against it.`);
      else if (isHash(name, value)) found.push({ name, value: name === 'c4' ? value : value.toLowerCase() });
      else notes.add(`${of}: its ${name} is none.`);
    }
  return found;
}

function fromSecond(list: Element, notes: Notes): Omit<ReadHashes, 'notes'> {
  const creator = records(list.creatorinfo)[0] ?? {};
  const process = records(list.processinfo)[0] ?? {};
  const held = records(list.hashes)[0] ?? {};
  const files = records(held.hash);
  if (files.length > mostListed) throw new HashListError(0, 'list-too-long', { most: mostListed });
  const tool = records(creator.tool)[0];
  const toolName = tool ? [textOf(tool), textOf(tool['@version'])].filter(Boolean).join(' ') : '';
  const root = records(process.roothash).map((one) => folderOf(one, '', notes));
  return {
    form: 'ASC MHL 2.0',
    createdAt: textOf(creator.creationdate),
    by: toolName || null,
    files: files.map((one) => {
      const path = records(one.path)[0] ?? {};
      const name = pathOf(textOf(path) ?? '');
      return { path: name, bytes: bytesOf(path['@size']), hashes: hashesIn(one, name, notes) };
    }),
    folders: [
      ...root,
      ...records(held.directoryhash).map((one) =>
        folderOf(one, pathOf(textOf(records(one.path)[0]) ?? ''), notes),
      ),
    ],
    ignored: records(process.ignore).flatMap(({ pattern }) =>
      records(pattern).flatMap((one) => textOf(one) ?? []),
    ),
  };
}

function folderOf(element: Element, path: string, notes: Notes): ListedFolder {
  const of = path === '' ? 'The folder itself' : path;
  const within = (field: string) => hashesIn(records(element[field])[0] ?? {}, of, notes);
  return { path, content: within('content'), structure: within('structure') };
}

/** Elements of the first form: 64 bits in either order of bytes, 32 bits as a decimal. */
function firstHashes(one: Element, path: string, notes: Notes): Hash[] {
  const found = hashesIn(one, path, notes);
  for (const field of ['xxhash64be', 'xxhash64'])
    for (const value of records(one[field]).flatMap((of) => textOf(of)?.trim().toLowerCase() ?? []))
      if (isHash('xxh64', value))
        found.unshift({ name: 'xxh64', value, ...(field === 'xxhash64' ? { eitherOrder: true } : {}) });
      else notes.add(`${path}: its ${field} is none.`);
  for (const value of records(one.xxhash).flatMap((of) => textOf(of)?.trim() ?? []))
    if (/^\d{1,10}$/.test(value) && Number(value) < 2 ** 32)
      found.push({ name: 'xxh32', value: Number(value).toString(16).padStart(8, '0') });
    else notes.add(`${path}: its xxhash is none.`);
  return found;
}

function fromFirst(list: Element, notes: Notes): Omit<ReadHashes, 'notes'> {
  const creator = records(list.creatorinfo)[0] ?? {};
  const files = records(list.hash);
  if (files.length > mostListed) throw new HashListError(0, 'list-too-long', { most: mostListed });
  return {
    form: 'MHL 1',
    createdAt: textOf(creator.finishdate) ?? textOf(list.creationdate),
    by: textOf(creator.tool),
    files: files.map((one) => {
      const path = pathOf(textOf(records(one.file)[0]) ?? '');
      return { path, bytes: bytesOf(records(one.size)[0]), hashes: firstHashes(one, path, notes) };
    }),
    folders: [],
    ignored: [],
  };
}

/** Names of hashes before `(path) =`, in capitals. */
const taggedNames: Readonly<Record<string, HashName>> = {
  MD5: 'md5',
  SHA1: 'sha1',
  SHA256: 'sha256',
  SHA512: 'sha512',
  XXH32: 'xxh32',
  XXH64: 'xxh64',
  XXH3: 'xxh3',
  XXH128: 'xxh128',
};
/** What a hash of so many digits is where nothing else says it. */
const byDigits: Readonly<Record<number, HashName>> = {
  8: 'xxh32',
  16: 'xxh64',
  32: 'md5',
  40: 'sha1',
  64: 'sha256',
  128: 'sha512',
};
/** Names of files that say which hash is in them. */
const byName: readonly (readonly [RegExp, HashName])[] = [
  [/xxh(?:ash)?128|xxh128sum/i, 'xxh128'],
  [/xxh3/i, 'xxh3'],
];

/** A path whose line begins with a backslash has its line ends and backslashes written as two signs. */
const unescaped = (path: string) =>
  path.replace(/\\([\\nr])/g, (_, sign: string) => (sign === 'n' ? '\n' : sign === 'r' ? '\r' : '\\'));

function fromLines(text: string, fileName: string, notes: Notes): Omit<ReadHashes, 'notes'> {
  const files: ListedFile[] = [];
  const named = byName.find(([pattern]) => pattern.test(fileName))?.[1];
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/);
  lines.forEach((content, index) => {
    const line = index + 1;
    if (content.trim() === '' || /^\s*[#;]/.test(content)) return;
    if (files.length >= mostListed) throw new HashListError(line, 'list-too-long', { most: mostListed });
    const isEscaped = content.startsWith('\\');
    const plain = isEscaped ? content.slice(1) : content;
    const tagged = /^([A-Z][A-Z0-9_-]{2,9}) ?\((.+)\) ?= ?([0-9A-Fa-f]{8,128})\s*$/.exec(plain);
    const first = /^([0-9A-Fa-f]{8,128}) [ *](.+)$/.exec(plain);
    const [given, path, digits] = tagged
      ? [taggedNames[tagged[1] as string], tagged[2] as string, tagged[3] as string]
      : first
        ? [undefined, first[2] as string, first[1] as string]
        : [undefined, '', ''];
    if (path === '') throw new HashListError(line, 'no-checksum', { content: content.slice(0, 80) });
    const name = tagged ? given : named && isHash(named, digits) ? named : byDigits[digits.length];
    const where = pathOf(isEscaped ? unescaped(path) : path, line);
    if (!name || !isHash(name, digits)) {
      notes.add(`Line ${line}: ${where} has a hash that cannot be computed here.`);
      files.push({ path: where, bytes: null, hashes: [] });
    } else files.push({ path: where, bytes: null, hashes: [{ name, value: digits.toLowerCase() }] });
  });
  return { form: 'checksums', createdAt: null, by: null, files, folders: [], ignored: [] };
}
