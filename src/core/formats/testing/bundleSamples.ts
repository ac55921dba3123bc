import { createHash } from 'node:crypto';
import schema from '../../../../docs/result-bundle.schema.json' with { type: 'json' };
import { seededRandom } from '../../stats/random';
import { bundleHashes, hashedLists } from '../bundleHashes';
import {
  bundleFormat,
  bundleVersion,
  type BundleHashes,
  type BundleLook,
  type BundlePlan,
  type BundleTimeline,
  type BundleTrial,
} from '../bundleTypes';
import { rational } from '../../time/rational';
import { sideBySide } from '../../timeline/loads';
import type { MediaRef, Timeline } from '../../timeline/model';
import type { TrialKind } from '../../kinds/kinds';
import { isRecord } from '../../record';

type Node = Readonly<Record<string, unknown>>;
const definitions = schema.$defs as unknown as Readonly<Record<string, Node>>;

/** How values are chosen where a schema leaves it open. */
interface Choice {
  /** Whether a field that may be absent is there. */
  readonly has: () => boolean;
  readonly length: () => number;
  /** Which of several forms. */
  readonly form: (forms: number) => number;
  readonly number: () => number;
  readonly text: () => string;
}

/** As little as the schema lets pass: no list has an entry, what may be null is. */
export const least: Choice = {
  has: () => false,
  length: () => 0,
  form: (forms) => forms - 1,
  number: () => 0,
  text: () => '',
};

/** All that may be there. */
export const most: Choice = {
  has: () => true,
  length: () => 2,
  form: () => 0,
  number: () => 3,
  text: () => 'walk',
};

const odd = [-1, 0, 0.5, 1, 2, 7, 1e-9, 1e9, 2 ** 31, 2 ** 53, 1e300, -1e300];
const words = ['', ' ', 'walk', '<b>walk</b>', '1/2', '../..', '🜁', 'x'.repeat(900), '=1+1', '__proto__'];

/** Whatever the schema lets pass, by a seed. */
export function wild(seed: number): Choice {
  const random = seededRandom(seed);
  const below = (most: number) => Math.floor(random() * most);
  return {
    has: () => random() < 0.7,
    length: () => below(4),
    form: below,
    number: () => odd[below(odd.length)] as number,
    text: () => words[below(words.length)] as string,
  };
}

/** A value that a schema lets pass. */
function made(node: Node, choice: Choice): unknown {
  if (typeof node.$ref === 'string')
    return made(definitions[node.$ref.replace('#/$defs/', '')] as Node, choice);
  if ('const' in node) return node.const;
  if (Array.isArray(node.enum)) return node.enum[choice.form(node.enum.length)];
  if (Array.isArray(node.anyOf)) return made(node.anyOf[choice.form(node.anyOf.length)] as Node, choice);
  if (Array.isArray(node.allOf))
    return Object.assign({}, ...node.allOf.map((part) => made(part as Node, choice))) as unknown;
  const types = [node.type].flat() as string[];
  switch (types[choice.form(types.length)]) {
    case 'null':
      return null;
    case 'boolean':
      return choice.has();
    case 'number':
      return within(node, choice.number());
    case 'integer':
      return Math.round(within({ minimum: 0, maximum: 2 ** 31, ...node }, choice.number()));
    case 'string':
      return textOf(node, choice);
    case 'array': {
      if (Array.isArray(node.prefixItems))
        return node.prefixItems.map((inner) => made(inner as Node, choice));
      const length = Math.min(choice.length(), (node.maxItems as number | undefined) ?? Infinity);
      return Array.from({ length }, () => made(node.items as Node, choice));
    }
    default:
      return objectOf(node, choice);
  }
}

const within = ({ minimum = -Infinity, maximum = Infinity }: Node, value: number) =>
  Math.max(minimum as number, Math.min(maximum as number, value));

function textOf({ format, pattern, minLength }: Node, choice: Choice): string {
  if (format === 'date-time') return '2026-03-01T18:00:00.000Z';
  if (typeof pattern === 'string') return pattern.includes('+/') ? '' : 'walk-id';
  return choice.text().padEnd((minLength as number | undefined) ?? 0, 'w');
}

function objectOf(
  { properties = {}, required = [], additionalProperties, patternProperties }: Node,
  choice: Choice,
) {
  const needed = required as readonly string[];
  const found: [string, unknown][] = Object.entries(properties as Readonly<Record<string, Node>>)
    .filter(([name]) => needed.includes(name) || choice.has())
    .map(([name, inner]) => [name, made(inner, choice)]);
  const entry: unknown = additionalProperties ?? Object.values(patternProperties ?? {})[0];
  if (isRecord(entry))
    for (let index = 0; index < choice.length(); index++) found.push([`${index}`, made(entry, choice)]);
  return Object.fromEntries(found);
}

/** A trial that the schema of bundles lets pass. What is packed is left out. */
export function sampleTrial(kind: TrialKind, id: string, choice: Choice, change: object = {}): BundleTrial {
  const { recorded = {}, ...trial } = made(definitions[`BundleTrialOf-${kind}`] as Node, choice) as Record<
    string,
    unknown
  >;
  const {
    traces: _traces,
    blocks: _blocks,
    charges: _charges,
    ...plain
  } = recorded as Record<string, unknown>;
  return { ...trial, id, recorded: plain, ...change } as unknown as BundleTrial;
}

/** A series or matrix that the schema lets pass, with runs of the cells that it has. */
export function samplePlan(id: string, choice: Choice, trialIds: readonly string[] = []): BundlePlan {
  const plan = made(definitions.BundlePlan as Node, choice) as BundlePlan;
  const cells = plan.cells.map((cell, index) => ({ ...cell, cell: index }));
  const ran = trialIds.map((trialId, position) => ({
    position,
    cell: 0,
    repeat: position,
    status: 'done' as const,
    trialId,
    attempts: 1,
    inDoubt: false,
  }));
  return { ...plan, id, cells, steps: cells.length > 0 ? ran : [] };
}

/** A small timeline that refers to a look. */
export function sampleTimeline(id: string, lookId: string | null = null): BundleTimeline {
  const medium: MediaRef = {
    clipId: 'clip-there',
    name: 'TW_WALL_0107.mov',
    reel: null,
    startTimecode: '07:12:40:00',
    contentHash: 'content-of-wall-0107',
    rate: rational(24),
    frames: 192,
    width: 64,
    height: 36,
  };
  const plain = { ...sideBySide({ id: 'm1', ref: medium }, 2, 4), name: 'Tidewrack, reel two' };
  const [track, ...others] = plain.tracks as [Timeline['tracks'][number]];
  const [item, ...rest] = track.items as [(typeof track.items)[number]];
  const look = { id: 'e-look', on: true, kind: 'lut', lookId, name: 'Harbour evening' } as const;
  const document: Timeline = {
    ...plain,
    tracks: [{ ...track, items: [{ ...item, effects: [...item.effects, look] }, ...rest] }, ...others],
  };
  const at = '2026-11-02T09:00:00.000Z';
  return {
    id,
    name: document.name,
    document,
    versions: [{ number: 1, name: 'first cut', document, createdAt: at }],
    createdAt: at,
    updatedAt: at,
  };
}

/** A look that changes nothing. */
export const sampleLook = (id: string): BundleLook => ({
  id,
  name: 'Harbour evening',
  cube: 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n',
});

export const sha256 = (text: string) => createHash('sha256').update(text).digest('hex');

/** @param change of its fields, such as its id */
export const sampleRig = (change: object = {}) => ({
  id: 'r1',
  name: 'Quoin',
  identity: made(definitions.RigIdentity as Node, most),
  simulated: true,
  ...change,
});

/** A bundle of the version of today around some trials, with its hashes as its JSON has it. */
export function sampleBundle(trials: readonly unknown[], change: object = {}): Record<string, unknown> {
  const bundle = JSON.parse(
    JSON.stringify({
      format: bundleFormat,
      version: bundleVersion,
      exportedAt: '2026-11-02T09:00:00.000Z',
      softwareVersion: '0.1',
      rig: sampleRig(),
      volumes: [{ id: 'v', name: 'Store', kind: 'network', standIn: null }],
      trials,
      ...change,
    }),
  ) as Record<string, unknown>;
  return { ...bundle, ...hashed(bundle) };
}

/** The hashes of a bundle; of none of its lists where one is no list. Older ones have none. */
function hashed(bundle: Record<string, unknown>): { readonly hashes?: BundleHashes } {
  const listed = hashedLists.every((list) => bundle[list] === undefined || Array.isArray(bundle[list]));
  return bundle.version === bundleVersion ? { hashes: bundleHashes(listed ? bundle : {}, sha256) } : {};
}

/** The text of a bundle that was changed with its hashes put right again: what another rig would export. */
export function asExported(bundle: object): string {
  const changed = JSON.parse(JSON.stringify(bundle)) as Record<string, unknown>;
  return JSON.stringify({ ...changed, ...hashed(changed) });
}
