import { unsoundJson } from '../edge/strict';
import { isRecord } from '../record';
import { misfitOf } from './bundleCheck';
import { BundleError } from './bundleError';
import { bundleFormat, bundleVersion, type ResultBundle } from './bundleTypes';
import { trialsOfVersion1 } from './bundleVersion1';

/** Most trials that one bundle holds. */
export const mostBundled = 20_000;

/** A bundle with all its lists. */
export type WholeBundle = Required<ResultBundle>;

/** A place in a document as people read it: `trials[3].summary`. */
function placeText(path: readonly string[]): string {
  const text = path.map((part) => (/^\d+$/.test(part) ? `[${part}]` : `.${part}`)).join('');
  return text.startsWith('.') ? text.slice(1) : text || 'The bundle';
}

/** Versions that can be read, each as the one of today. @returns the places of its trials in the file as well */
function asToday(root: Readonly<Record<string, unknown>>): {
  readonly bundle: Readonly<Record<string, unknown>>;
  readonly places: readonly string[];
} {
  if (root.version !== 1) return { bundle: root, places: [] };
  const found = trialsOfVersion1(root);
  return {
    bundle: {
      ...root,
      version: bundleVersion,
      trials: found.map(({ place: _place, ...trial }) => trial),
    },
    places: found.map(({ place }) => place as string),
  };
}

/** @throws BundleError for what no bundle that this Navvy reads begins with */
function rootOf(text: string): Readonly<Record<string, unknown>> {
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

/** @throws BundleError where an id stands twice */
function assertOnce(list: string, entries: readonly { readonly id: string }[], place = placeOf(list)): void {
  const seen = new Set<string>();
  entries.forEach(({ id }, index) => {
    if (seen.has(id)) throw new BundleError('id-twice', { place: place(index) });
    seen.add(id);
  });
}

const placeOf = (list: string) => (index: number) => `${list}[${index}]`;

/**
 * Reads a result bundle and holds it against its schema, to the last field.
 * @throws BundleError with the place, for what is no bundle, is of a later version, or is not as the schema has it
 */
export function parseBundle(text: string): WholeBundle {
  const root = rootOf(text);
  const { bundle, places } = asToday(root);
  const place = (index: number) => places[index] ?? placeOf('trials')(index);
  if (Array.isArray(bundle.trials) && bundle.trials.length > mostBundled)
    throw new BundleError('bundle-too-many', { most: mostBundled });
  const misfit = misfitOf(bundle);
  if (misfit) {
    const { path, must } = misfit;
    const [list, index, ...within] = path;
    const at =
      list === 'trials' && index !== undefined
        ? [place(Number(index)), ...(within.length > 0 ? [placeText(within)] : [])].join('.')
        : placeText(path);
    throw new BundleError('bundle-misfit', { place: at, must });
  }
  const whole = bundle as unknown as ResultBundle;
  const { volumes = [], trials = [] } = whole;
  assertOnce('volumes', volumes);
  assertOnce('trials', trials, place);
  return { ...whole, softwareVersion: whole.softwareVersion ?? 'unknown', volumes, trials };
}
