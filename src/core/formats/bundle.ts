import { unsoundJson } from '../edge/strict';
import { isRecord } from '../record';
import { misfitOf } from './bundleCheck';
import { BundleError } from './bundleError';
import { changedPlace, type Sha256 } from './bundleHashes';
import { bundleFormat, bundleVersion, type BundleHashes, type ResultBundle } from './bundleTypes';
import { trialsOfVersion1 } from './bundleVersion1';
import { TimelineError, timelineFrom } from '../timeline/schema';

/** Most trials that one bundle holds. */
export const mostBundled = 20_000;

/** A bundle with all its lists. */
export type WholeBundle = Required<ResultBundle>;

/** A bundle that was read. */
export interface ReadBundle extends Omit<WholeBundle, 'version' | 'hashes'> {
  /** Of the file. */
  readonly version: number;
  /** Null in bundles from before version 3: nobody can tell whether those were changed. */
  readonly hashes: BundleHashes | null;
}

/** A place in a document as people read it: `trials[3].summary`. */
function placeText(path: readonly string[]): string {
  const text = path.map((part) => (/^\d+$/.test(part) ? `[${part}]` : `.${part}`)).join('');
  return text.startsWith('.') ? text.slice(1) : text || 'The bundle';
}

type Root = Readonly<Record<string, unknown>>;
/** Where an entry of a list stands, as people read it. */
type Place = (index: number) => string;

/** The last version without hashes. */
const lastUnproved = 2;
/** In place of the hashes that older versions have none of, for the schema. */
const noHashes: BundleHashes = {
  volumes: [],
  looks: [],
  timelines: [],
  plans: [],
  trials: [],
  whole: '0'.repeat(64),
};

/**
 * The step from each version to the one after it.
 * Version 1 had a list of trials for each family of kinds; version 2 had no timelines, looks, plans and hashes.
 */
const steps: Readonly<Record<number, (root: Root) => Root>> = {
  1: (root) => ({
    ...root,
    trials: trialsOfVersion1(root).map(({ place: _place, ...trial }) => trial),
  }),
  2: ({ looks: _looks, timelines: _timelines, plans: _plans, ...root }) => ({ ...root, hashes: noHashes }),
};

/** A bundle of any version that can be read as the one of today. */
function asToday(root: Root): Root {
  let now = root;
  for (let version = root.version as number; version < bundleVersion; version++)
    now = { ...(steps[version] as (root: Root) => Root)(now), version: version + 1 };
  return now;
}

/** Where the trials of a bundle stand in its file: asked only for what is wrong. */
function trialPlaces(root: Root): Place {
  if (root.version !== 1) return placeOf('trials');
  return (index) => trialsOfVersion1(root)[index]?.place as string;
}

/** @throws BundleError for what no bundle that this Navvy reads begins with */
function rootOf(text: string): Root {
  let root: unknown;
  try {
    root = JSON.parse(text);
  } catch {
    throw new BundleError('bundle-no-json');
  }
  if (!isRecord(root) || root.format !== bundleFormat)
    throw new BundleError('bundle-other-format', { format: bundleFormat });
  const unsound = unsoundJson(root);
  if (unsound !== null) throw new BundleError('bundle-unkept', { problem: unsound });
  if (typeof root.version !== 'number' || !Number.isInteger(root.version) || root.version < 1)
    throw new BundleError('bundle-without-version');
  if (root.version > bundleVersion)
    throw new BundleError('bundle-too-new', { version: root.version, known: bundleVersion });
  return root;
}

/** @throws BundleError where an entry stands twice. @param field that tells them from each other */
function assertOnce<Entry extends object>(
  entries: readonly Entry[],
  place: Place,
  field: keyof Entry & string,
): void {
  const seen = new Set<unknown>();
  entries.forEach((entry, index) => {
    if (seen.has(entry[field])) throw new BundleError('entry-twice', { place: place(index), field });
    seen.add(entry[field]);
  });
}

const placeOf =
  (list: string): Place =>
  (index) =>
    `${list}[${index}]`;

/** @throws BundleError where something of a plan or timeline stands twice, or a run is of no cell */
function assertTogether({ volumes, looks, timelines, plans, trials }: Lists, trialPlace: Place): void {
  assertOnce(volumes, placeOf('volumes'), 'id');
  assertOnce(looks, placeOf('looks'), 'id');
  assertOnce(timelines, placeOf('timelines'), 'id');
  assertOnce(plans, placeOf('plans'), 'id');
  assertOnce(trials, trialPlace, 'id');
  timelines.forEach(({ versions = [] }, at) => {
    assertOnce(versions, placeOf(`timelines[${at}].versions`), 'number');
  });
  plans.forEach(({ cells, steps: runs }, at) => {
    assertOnce(cells, placeOf(`plans[${at}].cells`), 'cell');
    assertOnce(runs, placeOf(`plans[${at}].steps`), 'position');
    const known = new Set(cells.map(({ cell }) => cell));
    runs.forEach(({ cell }, index) => {
      if (!known.has(cell))
        throw new BundleError('bundle-misfit', {
          place: `plans[${at}].steps[${index}].cell`,
          must: 'must be the number of a cell of this plan',
        });
    });
  });
}

type Lists = Pick<WholeBundle, 'volumes' | 'looks' | 'timelines' | 'plans' | 'trials'>;

/** Timelines whose documents hang together, without what does not belong there. @throws BundleError with the place */
function soundTimelines(timelines: Lists['timelines']): Lists['timelines'] {
  const sound = (document: unknown, place: string) => {
    try {
      return timelineFrom(document);
    } catch (error) {
      if (!(error instanceof TimelineError)) throw error;
      throw new BundleError('bundle-timeline', { place, problem: error.message });
    }
  };
  return timelines.map(({ document, versions = [], ...timeline }, at) => ({
    ...timeline,
    document: sound(document, `timelines[${at}].document`),
    versions: versions.map((version, index) => ({
      ...version,
      document: sound(version.document, `timelines[${at}].versions[${index}].document`),
    })),
  }));
}

/**
 * Reads a result bundle and holds it against its schema, to the last field, and against its hashes.
 * @throws BundleError with the place, for what is no bundle, is of a later version, is not as the schema has it, or was
 * changed since its export
 */
export function parseBundle(text: string, sha256: Sha256): ReadBundle {
  const root = rootOf(text);
  const version = root.version as number;
  const bundle = asToday(root);
  const place = trialPlaces(root);
  if (Array.isArray(bundle.trials) && bundle.trials.length > mostBundled)
    throw new BundleError('bundle-too-many', { most: mostBundled });
  const misfit = misfitOf(bundle);
  if (misfit) {
    const { path, must } = misfit;
    throw new BundleError('bundle-misfit', { place: placeIn(path, place), must });
  }
  const whole = bundle as unknown as ResultBundle & Root;
  const isProved = version > lastUnproved;
  const changed = isProved ? changedPlace(whole, sha256) : null;
  if (changed) throw new BundleError('bundle-changed', { place: placeIn(changed, place) });
  const { volumes = [], looks = [], timelines = [], plans = [], trials = [] } = whole;
  assertTogether({ volumes, looks, timelines, plans, trials }, place);
  return {
    ...(whole as ResultBundle),
    version,
    hashes: isProved ? whole.hashes : null,
    softwareVersion: whole.softwareVersion ?? 'unknown',
    volumes,
    looks,
    timelines: soundTimelines(timelines),
    plans,
    trials,
  };
}

/** A path into a bundle as people read it in the file that it came from. */
function placeIn(path: readonly string[], trialPlace: Place): string {
  const [list, index, ...within] = path;
  return list === 'trials' && index !== undefined
    ? [trialPlace(Number(index)), ...(within.length > 0 ? [placeText(within)] : [])].join('.')
    : placeText(path);
}
