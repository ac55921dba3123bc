import { wordsFor, type About } from '../failure';
import { coreWords, type CoreCode } from '../words';
/** A colour table read from a `.cube` file: 1D curves per channel, or a 3D grid. */
export interface Cube {
  readonly title: string | null;
  readonly dimensions: 1 | 3;
  /** Entries per channel (1D) or per edge (3D). */
  readonly size: number;
  readonly domainMin: readonly [number, number, number];
  readonly domainMax: readonly [number, number, number];
  /** Red, green, blue one after the other; of a 3D table red changes fastest. */
  readonly values: Float64Array;
}

/** What is wrong in a `.cube` file, and where. `line` counts from 1; 0 when it concerns the whole file. */
export class CubeError<Code extends CoreCode = CoreCode> extends Error {
  override name = 'CubeError';
  constructor(
    readonly line: number,
    readonly code: Code,
    ...[given]: About<(typeof coreWords)[Code]>
  ) {
    const reason = wordsFor(coreWords[code], given);
    super(line > 0 ? `Line ${line}: ${reason}` : reason);
  }
}

/** Longest number, characters. */
const mostDigits = 64;
const limits = { 1: { least: 2, most: 65_536 }, 3: { least: 2, most: 256 } } as const;

/**
 * Reads a `.cube` table: keywords TITLE, LUT_1D_SIZE or LUT_3D_SIZE, DOMAIN_MIN and
 * DOMAIN_MAX (also the one-range forms LUT_1D_INPUT_RANGE and LUT_3D_INPUT_RANGE),
 * `#` comments, then one line of three numbers per entry.
 * @throws CubeError naming the line and what is wrong there
 */
export function parseCube(text: string): Cube {
  let title: string | null = null;
  let dimensions: 1 | 3 | null = null;
  let size = 0;
  let sizeLine = 0;
  let domainMin: Cube['domainMin'] = [0, 0, 0];
  let domainMax: Cube['domainMax'] = [1, 1, 1];
  let values: Float64Array | null = null;
  let entries = 0;
  let expected = 0;
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\n|\r/);
  lines.forEach((raw, index) => {
    const line = index + 1;
    const content = raw.trim();
    if (content === '' || content.startsWith('#')) return;
    const [word = '', ...rest] = content.split(/\s+/);
    if (/^[A-Za-z_]/.test(word) && !/^(nan|inf)/i.test(word)) {
      if (entries > 0) throw new CubeError(line, 'keyword-behind-entries', { keyword: word.slice(0, 40) });
      switch (word) {
        case 'TITLE': {
          const quoted = /^TITLE\s+"([^"]*)"$/.exec(content);
          if (!quoted) throw new CubeError(line, 'title-without-quotes');
          title = quoted[1] ?? '';
          return;
        }
        case 'LUT_1D_SIZE':
        case 'LUT_3D_SIZE': {
          if (dimensions !== null) throw new CubeError(line, 'size-twice', { first: sizeLine });
          dimensions = word === 'LUT_1D_SIZE' ? 1 : 3;
          size = wholeNumber(rest, line, word, limits[dimensions]);
          sizeLine = line;
          expected = dimensions === 1 ? size : size ** 3;
          // A file that is cut short does not take the room of a whole one.
          values = new Float64Array(3 * Math.min(expected, lines.length - index));
          return;
        }
        case 'DOMAIN_MIN':
          domainMin = triple(rest, line, word);
          return;
        case 'DOMAIN_MAX':
          domainMax = triple(rest, line, word);
          return;
        case 'LUT_1D_INPUT_RANGE':
        case 'LUT_3D_INPUT_RANGE': {
          const [low, high, ...more] = rest.map((part) => finite(part, line));
          if (low === undefined || high === undefined || more.length > 0)
            throw new CubeError(line, 'two-numbers', { word });
          domainMin = [low, low, low];
          domainMax = [high, high, high];
          return;
        }
        default:
          throw new CubeError(line, 'keyword-unknown', { keyword: word.slice(0, 40) });
      }
    }
    if (values === null) throw new CubeError(line, 'entries-before-size');
    const entry = triple([word, ...rest], line, 'a table entry');
    if (entries >= expected) throw new CubeError(line, 'too-many-entries', { expected, first: sizeLine });
    values.set(entry, entries * 3);
    entries++;
  });
  if (dimensions === null || values === null) throw new CubeError(0, 'no-size');
  if (entries < expected) throw new CubeError(lines.length, 'too-few-entries', { entries, expected });
  domainMin.forEach((low, channel) => {
    if (!(low < (domainMax[channel] as number)))
      throw new CubeError(0, 'domain-upside-down', { channel: channel + 1 });
  });
  return { title, dimensions, size, domainMin, domainMax, values };
}

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

/** Writes a table as `.cube`, with nine decimals and the domain only where it is not 0 to 1. */
export function writeCube(cube: Cube): string {
  const lines: string[] = [];
  if (cube.title !== null) lines.push(`TITLE "${cube.title.replaceAll('"', '')}"`);
  lines.push(`LUT_${cube.dimensions}D_SIZE ${cube.size}`);
  if (cube.domainMin.some((value) => value !== 0)) lines.push(`DOMAIN_MIN ${cube.domainMin.join(' ')}`);
  if (cube.domainMax.some((value) => value !== 1)) lines.push(`DOMAIN_MAX ${cube.domainMax.join(' ')}`);
  for (let at = 0; at < cube.values.length; at += 3)
    lines.push([0, 1, 2].map((channel) => decimal(cube.values[at + channel] as number)).join(' '));
  return `${lines.join('\n')}\n`;
}

function decimal(value: number): string {
  const text = value.toFixed(9).replace(/0+$/, '');
  return text.endsWith('.') ? `${text}0` : text;
}
