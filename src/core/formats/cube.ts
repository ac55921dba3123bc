import type { CoreCode } from '../words';
import { LineError } from './lineError';

/** A table of colours: curves for each channel, or a grid. */
export interface CubeTable {
  /** Entries per channel (1D) or per edge (3D). */
  readonly size: number;
  /** What the first and the last entry stand for, red, green, blue. */
  readonly domainMin: readonly [number, number, number];
  readonly domainMax: readonly [number, number, number];
  /** Red, green, blue one after the other; of a 3D table red changes fastest. */
  readonly values: Float64Array;
}

/** A colour table read from a `.cube` file: 1D curves per channel, or a 3D grid. */
export interface Cube extends CubeTable {
  readonly title: string | null;
  readonly dimensions: 1 | 3;
  /** Curves that a picture goes through before a 3D grid; null where the file has one table. */
  readonly shaper: CubeTable | null;
}

/** What is wrong in a `.cube` file, and where. */
export class CubeError<Code extends CoreCode = CoreCode> extends LineError<Code> {
  override name = 'CubeError';
}

/** Longest number, characters. */
const mostDigits = 64;
const limits = { 1: { least: 2, most: 65_536 }, 3: { least: 2, most: 256 } } as const;

/** A table as far as its file has been read. */
interface Filling {
  readonly dimensions: 1 | 3;
  readonly size: number;
  /** Line of its size. */
  readonly line: number;
  readonly expected: number;
  domainMin: CubeTable['domainMin'];
  domainMax: CubeTable['domainMax'];
  readonly values: Float64Array;
  entries: number;
}

const isFull = ({ entries, expected }: Filling) => entries >= expected;

/**
 * Reads a `.cube` table: keywords TITLE, LUT_1D_SIZE or LUT_3D_SIZE, DOMAIN_MIN and DOMAIN_MAX (also the one-range forms
 * LUT_1D_INPUT_RANGE and LUT_3D_INPUT_RANGE), `#` comments, then one line of three numbers per entry. A file with both sizes
 * holds curves first, which pictures go through, and then the grid. Titles need no quotes.
 * @throws CubeError naming the line and what is wrong there
 */
export function parseCube(text: string): Cube {
  const plain = /\r(?!\n)/.test(text) ? text.replace(/\r\n?/g, '\n') : text;
  const reading = new CubeReading(plain);
  // By places in the text: a grid of 65 has 274 625 lines, of which none is cut out.
  for (let from = plain.startsWith('\uFEFF') ? 1 : 0, line = 1; from <= plain.length; line++) {
    const found = plain.indexOf('\n', from);
    const end = found < 0 ? plain.length : found;
    reading.line(from, end, line);
    from = end + 1;
  }
  return reading.cube();
}

const [hash, plus, minus, point, zero, nine] = [35, 43, 45, 46, 48, 57] as const;
const isSpace = (code: number) => code === 32 || (code >= 9 && code <= 13);

class CubeReading {
  private title: string | null = null;
  private readonly tables: Filling[] = [];
  private domainMin: CubeTable['domainMin'] | null = null;
  private domainMax: CubeTable['domainMax'] | null = null;
  private readonly ranges = new Map<1 | 3, readonly [low: number, high: number]>();
  private hasEntries = false;
  private lines = 0;
  /** Where the number ends that was read last. */
  private end = 0;

  constructor(private readonly text: string) {}

  line(from: number, to: number, line: number): void {
    const { text } = this;
    this.lines = line;
    let at = from;
    while (at < to && isSpace(text.charCodeAt(at))) at++;
    if (at === to || text.charCodeAt(at) === hash) return;
    const first = text.charCodeAt(at);
    const isLetter = (first >= 65 && first <= 90) || (first >= 97 && first <= 122) || first === 95;
    if (isLetter && !/^(nan|inf)/i.test(text.slice(at, at + 3)))
      this.keyword(text.slice(at, to).trim(), line);
    else this.entry(at, to, line);
  }

  private keyword(content: string, line: number): void {
    const [word = ''] = content.split(/\s/, 1);
    if (this.hasEntries) throw new CubeError(line, 'keyword-behind-entries', { keyword: word.slice(0, 40) });
    if (word === 'TITLE') {
      const said = content.slice(word.length).trim();
      this.title = /^"([^"]*)"/.exec(said)?.[1] ?? withoutComment(said).replaceAll('"', '').trim();
      return;
    }
    const rest = withoutComment(content).split(/\s+/).slice(1);
    switch (word) {
      case 'LUT_1D_SIZE':
      case 'LUT_3D_SIZE':
        this.begin(word === 'LUT_1D_SIZE' ? 1 : 3, rest, word, line);
        return;
      case 'DOMAIN_MIN':
        this.domainMin = triple(rest, line, word);
        return;
      case 'DOMAIN_MAX':
        this.domainMax = triple(rest, line, word);
        return;
      case 'LUT_1D_INPUT_RANGE':
      case 'LUT_3D_INPUT_RANGE': {
        const [low, high, ...more] = rest.map((part) => finite(part, line));
        if (low === undefined || high === undefined || more.length > 0)
          throw new CubeError(line, 'two-numbers', { word });
        this.ranges.set(word === 'LUT_1D_INPUT_RANGE' ? 1 : 3, [low, high]);
        return;
      }
      default:
        throw new CubeError(line, 'keyword-unknown', { keyword: word.slice(0, 40) });
    }
  }

  private begin(dimensions: 1 | 3, rest: readonly string[], word: string, line: number): void {
    const known = this.tables.find((table) => table.dimensions === dimensions);
    if (known) throw new CubeError(line, 'size-twice', { first: known.line });
    const size = wholeNumber(rest, line, word, limits[dimensions]);
    const expected = dimensions === 1 ? size : size ** 3;
    this.tables.push({
      dimensions,
      size,
      line,
      expected,
      domainMin: [0, 0, 0],
      domainMax: [1, 1, 1],
      // A file that is cut short does not take the room of a whole one: an entry has six characters at least.
      values: new Float64Array(3 * Math.min(expected, Math.ceil(this.text.length / leastCharacters))),
      entries: 0,
    });
    // Curves come before the grid, in whatever order their sizes are told.
    this.tables.sort((a, b) => a.dimensions - b.dimensions);
  }

  private entry(from: number, to: number, line: number): void {
    if (this.tables.length === 0) throw new CubeError(line, 'entries-before-size');
    const { text } = this;
    const table = this.tables.find((one) => !isFull(one));
    this.end = from;
    const [red, green, blue] = [this.number(to, line), this.number(to, line), this.number(to, line)];
    // Fewer numbers leave the last one out; more stand behind it.
    if (Number.isNaN(blue) || !this.isOver(to))
      triple(withoutComment(text.slice(from, to)).split(/\s+/), line, 'a table entry');
    if (!table) {
      const last = this.tables.at(-1) as Filling;
      throw new CubeError(line, 'too-many-entries', { expected: last.expected, first: last.line });
    }
    const at = table.entries * 3;
    table.values[at] = red;
    table.values[at + 1] = green;
    table.values[at + 2] = blue;
    table.entries++;
    this.hasEntries = true;
  }

  /** The next number of a line; NaN where the line has no more. */
  private number(to: number, line: number): number {
    const { text } = this;
    let at = this.end;
    while (at < to && isSpace(text.charCodeAt(at))) at++;
    const from = at;
    const sign = text.charCodeAt(at);
    if (sign === minus || sign === plus) at++;
    let digits = 0;
    let value = 0;
    let decimals = 0;
    let isBehindPoint = false;
    for (; at < to; at++) {
      const code = text.charCodeAt(at);
      if (code >= zero && code <= nine) {
        value = value * 10 + (code - zero);
        digits++;
        if (isBehindPoint) decimals++;
      } else if (code === point && !isBehindPoint) isBehindPoint = true;
      else break;
    }
    const isEnd = at >= to || isSpace(text.charCodeAt(at)) || text.charCodeAt(at) === hash;
    // Up to fifteen digits are whole in a double, and a power of ten up to 22: their quotient is rounded once, as it must be.
    if (isEnd && digits > 0 && digits <= 15) {
      this.end = at;
      const size = value / (powers[decimals] as number);
      return sign === minus ? -size : size;
    }
    while (at < to && !isSpace(text.charCodeAt(at)) && text.charCodeAt(at) !== hash) at++;
    this.end = at;
    return at === from ? Number.NaN : finite(text.slice(from, at), line);
  }

  /** Whether nothing but a comment stands behind the last number of a line. */
  private isOver(to: number): boolean {
    const { text } = this;
    let at = this.end;
    while (at < to && isSpace(text.charCodeAt(at))) at++;
    return at >= to || text.charCodeAt(at) === hash;
  }

  cube(): Cube {
    const [first, second] = this.tables;
    if (!first) throw new CubeError(0, 'no-size');
    for (const { entries, expected } of this.tables)
      if (entries < expected) throw new CubeError(this.lines, 'too-few-entries', { entries, expected });
    const tables = this.tables.map((table, at): CubeTable => {
      const range = this.ranges.get(table.dimensions);
      // A domain is that of what comes in.
      const domainMin = (at === 0 ? this.domainMin : null) ?? inAll(range?.[0] ?? 0);
      const domainMax = (at === 0 ? this.domainMax : null) ?? inAll(range?.[1] ?? 1);
      domainMin.forEach((low, channel) => {
        if (!(low < (domainMax[channel] as number)))
          throw new CubeError(0, 'domain-upside-down', { channel: channel + 1 });
      });
      return { size: table.size, domainMin, domainMax, values: table.values };
    });
    const grid = tables.at(-1) as CubeTable;
    return {
      title: this.title,
      dimensions: (second ?? first).dimensions,
      ...grid,
      shaper: second ? (tables[0] as CubeTable) : null,
    };
  }
}

/** Characters of the shortest line of an entry, with its end. */
const leastCharacters = 6;
const powers = Array.from({ length: 16 }, (_, power) => 10 ** power);
const inAll = (value: number) => [value, value, value] as const;
const withoutComment = (text: string) => text.replace(/#.*$/, '').trim();

function finite(text: string, line: number): number {
  // Number() would take "" and "0x10"; a table holds decimal numbers. Longer ones than this say nothing more.
  const isNumber = text.length <= mostDigits && /^[+-]?(\d+(\.\d*)?|\.\d+)(e[+-]?\d+)?$/i.test(text);
  const value = isNumber ? Number(text) : Number.NaN;
  if (!Number.isFinite(value)) throw new CubeError(line, 'no-number', { text: text.slice(0, 40) });
  return value;
}

function triple(parts: readonly string[], line: number, what: string): [number, number, number] {
  if (parts.length !== 3) throw new CubeError(line, 'three-numbers', { what, found: parts.length });
  return parts.map((part) => finite(part, line)) as [number, number, number];
}

function wholeNumber(
  parts: readonly string[],
  line: number,
  word: string,
  { least, most }: { least: number; most: number },
): number {
  const value = Number(parts[0]);
  if (parts.length !== 1 || !Number.isInteger(value)) throw new CubeError(line, 'one-whole-number', { word });
  if (value < least || value > most)
    throw new CubeError(line, 'size-out-of-range', { word, value, least, most });
  return value;
}

/** A table that takes 0 to 1, as pictures between filters have it. */
export interface PlainTable {
  readonly dimensions: 1 | 3;
  readonly size: number;
  readonly values: Float64Array;
}

/** Entries of curves that are right at every value of 8 and of 16 bits. */
const allLevels = 65_536;

/**
 * A look as tables in the order in which pictures go through them, each from 0 to 1: filters read domains otherwise than the
 * form describes them, or not at all. Curves are resampled at every level; before a grid a curve brings its domain there.
 */
export function tablesOf(cube: Cube): PlainTable[] {
  if (cube.dimensions === 1) return [curvesOf(cube)];
  const grid: PlainTable = { dimensions: 3, size: cube.size, values: cube.values };
  const fit = (value: number, channel: number) => {
    const [low, high] = [cube.domainMin[channel] as number, cube.domainMax[channel] as number];
    return (value - low) / (high - low);
  };
  const straight: CubeTable = {
    size: 2,
    domainMin: inAll(0),
    domainMax: inAll(1),
    values: Float64Array.of(0, 0, 0, 1, 1, 1),
  };
  if (!cube.shaper && isUnit(cube)) return [grid];
  const curves = curvesOf(cube.shaper ?? straight);
  return [{ ...curves, values: curves.values.map((value, at) => fit(value, at % 3)) }, grid];
}

const isUnit = ({ domainMin, domainMax }: CubeTable) =>
  domainMin.every((value) => value === 0) && domainMax.every((value) => value === 1);

/** Curves from 0 to 1: as they are, or looked up at every level where they begin or end elsewhere. */
function curvesOf(table: CubeTable): PlainTable {
  if (isUnit(table)) return { dimensions: 1, size: table.size, values: table.values };
  const values = new Float64Array(3 * allLevels);
  for (let level = 0; level < allLevels; level++)
    for (let channel = 0; channel < 3; channel++)
      values[level * 3 + channel] = curveAt(table, channel, level / (allLevels - 1));
  return { dimensions: 1, size: allLevels, values };
}

/** A curve at a value, straight between its entries; beyond them as at their ends. */
function curveAt({ size, domainMin, domainMax, values }: CubeTable, channel: number, value: number): number {
  const [low, high] = [domainMin[channel] as number, domainMax[channel] as number];
  const place = Math.min(1, Math.max(0, (value - low) / (high - low))) * (size - 1);
  const below = Math.min(size - 2, Math.floor(place));
  const [from, to] = [values[below * 3 + channel] as number, values[(below + 1) * 3 + channel] as number];
  return from + (to - from) * (place - below);
}

/** A plain table as a file of its own. */
export const plainCube = ({ dimensions, size, values }: PlainTable): string =>
  writeCube({
    title: null,
    shaper: null,
    dimensions,
    size,
    values,
    domainMin: inAll(0),
    domainMax: inAll(1),
  });

/** Writes a look as `.cube`, with nine decimals and domains only where they are not 0 to 1. */
export function writeCube(cube: Cube): string {
  const lines: string[] = [];
  if (cube.title !== null) lines.push(`TITLE "${cube.title.replaceAll('"', '')}"`);
  const tables = cube.shaper ? [cube.shaper, cube] : [cube];
  const sizes = cube.shaper ? ([1, 3] as const) : ([cube.dimensions] as const);
  tables.forEach(({ size }, at) => lines.push(`LUT_${sizes[at]}D_SIZE ${size}`));
  const [first] = tables as [CubeTable];
  if (first.domainMin.some((value) => value !== 0)) lines.push(`DOMAIN_MIN ${first.domainMin.join(' ')}`);
  if (first.domainMax.some((value) => value !== 1)) lines.push(`DOMAIN_MAX ${first.domainMax.join(' ')}`);
  // What lies between the two tables has one range.
  const { domainMin, domainMax } = cube;
  if (cube.shaper && (domainMin[0] !== 0 || domainMax[0] !== 1))
    lines.push(`LUT_3D_INPUT_RANGE ${domainMin[0]} ${domainMax[0]}`);
  for (const { values } of tables)
    for (let at = 0; at < values.length; at += 3)
      lines.push([0, 1, 2].map((channel) => decimal(values[at + channel] as number)).join(' '));
  return `${lines.join('\n')}\n`;
}

function decimal(value: number): string {
  const text = value.toFixed(9).replace(/0+$/, '');
  return text.endsWith('.') ? `${text}0` : text;
}
