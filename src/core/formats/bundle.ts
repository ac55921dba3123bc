import { isRecord } from '../record';
import { trialKinds, type TrialKind } from '../kinds/kinds';
import { trialsOfVersion1 } from './bundleVersion1';

/** Name and version of the result bundle; `docs/result-bundle.md` describes it. */
export const bundleFormat = 'navvy-results';
export const bundleVersion = 2;

/** A JSON object whose fields are checked where they are used. */
export type JsonRecord = Readonly<Record<string, unknown>>;

export interface BundleRig {
  readonly id: string;
  readonly name: string;
  readonly identity: JsonRecord;
  /** Computed by a model, not measured. */
  readonly simulated: boolean;
}

/** A trial of any kind, as it was recorded. */
export interface BundleTrial extends JsonRecord {
  readonly id: string;
  readonly kind: TrialKind;
  readonly status: string;
  readonly subject: JsonRecord;
  readonly settings: JsonRecord;
  readonly createdAt: string;
  /** What was recorded of it, by the shape of the record; bytes in base64. */
  readonly recorded: Readonly<Record<string, readonly JsonRecord[]>>;
}

export interface ResultBundle {
  readonly format: typeof bundleFormat;
  readonly version: number;
  readonly exportedAt: string;
  readonly softwareVersion: string;
  readonly rig: BundleRig;
  readonly volumes: readonly (JsonRecord & {
    readonly id: string;
    readonly name: string;
    readonly kind: string;
  })[];
  readonly trials: readonly BundleTrial[];
}

/** A bundle that cannot be read, with the place and what to do. */
export class BundleError extends Error {}

function textAt(record: Record<string, unknown>, field: string, place: string): string {
  const value = record[field];
  if (typeof value !== 'string' || value === '')
    throw new BundleError(
      `${place}.${field} must be text that is not empty. The file may be cut off; export it again.`,
    );
  return value;
}

function recordAt(record: Record<string, unknown>, field: string, place: string): Record<string, unknown> {
  const value = record[field];
  if (!isRecord(value))
    throw new BundleError(`${place}.${field} must be an object. The file may be cut off; export it again.`);
  return value;
}

/** The records of a list; an absent list is empty. */
export function listAt(
  record: Record<string, unknown>,
  field: string,
  within = '',
): Record<string, unknown>[] {
  const value = record[field] ?? [];
  const place = within === '' ? field : `${within}.${field}`;
  if (!Array.isArray(value)) throw new BundleError(`${place} must be a list.`);
  value.forEach((entry, index) => {
    if (!isRecord(entry)) throw new BundleError(`${place}[${index}] must be an object.`);
  });
  return value as Record<string, unknown>[];
}

function assertTrial(trial: Record<string, unknown>, place: string): void {
  for (const field of ['id', 'kind', 'status', 'createdAt']) textAt(trial, field, place);
  if (!(trialKinds as readonly unknown[]).includes(trial.kind))
    throw new BundleError(
      `${place}.kind is "${String(trial.kind)}", which this Navvy does not know. Update Navvy, or leave these trials out.`,
    );
  for (const field of ['subject', 'settings']) recordAt(trial, field, place);
  if (Number.isNaN(Date.parse(trial.createdAt as string)))
    throw new BundleError(`${place}.createdAt must be a time such as 2026-01-31T10:00:00Z.`);
}

/**
 * Reads a result bundle.
 * @throws BundleError for what is no bundle, is of a later version, or lacks what every trial has
 */
export function parseBundle(text: string): ResultBundle {
  let root: unknown;
  try {
    root = JSON.parse(text);
  } catch {
    throw new BundleError('The file is not JSON. Choose a result bundle that Navvy exported.');
  }
  if (!isRecord(root) || root.format !== bundleFormat)
    throw new BundleError(`The file is not a result bundle: its "format" is not "${bundleFormat}".`);
  if (typeof root.version !== 'number' || !Number.isInteger(root.version) || root.version < 1)
    throw new BundleError('The bundle does not say its version as a whole number.');
  if (root.version > bundleVersion)
    throw new BundleError(
      `The bundle is of version ${root.version}; this Navvy reads up to version ${bundleVersion}. Update Navvy, or export it from there in the older version.`,
    );
  textAt(root, 'exportedAt', 'bundle');
  const rig = recordAt(root, 'rig', 'bundle');
  for (const field of ['id', 'name']) textAt(rig, field, 'rig');
  recordAt(rig, 'identity', 'rig');
  listAt(root, 'volumes').forEach((volume, index) => {
    for (const field of ['id', 'name', 'kind']) textAt(volume, field, `volumes[${index}]`);
  });
  const trials = root.version === 1 ? trialsOfVersion1(root) : listAt(root, 'trials');
  trials.forEach(({ place, ...trial }, index) =>
    assertTrial(trial, typeof place === 'string' ? place : `trials[${index}]`),
  );
  return {
    format: bundleFormat,
    version: root.version,
    exportedAt: root.exportedAt as string,
    softwareVersion: typeof root.softwareVersion === 'string' ? root.softwareVersion : 'unknown',
    rig: {
      id: rig.id as string,
      name: rig.name as string,
      identity: rig.identity as JsonRecord,
      simulated: rig.simulated === true,
    },
    volumes: listAt(root, 'volumes') as unknown as ResultBundle['volumes'],
    trials: trials.map(({ place: _place, ...trial }) => ({
      ...trial,
      recorded: Object.fromEntries(
        Object.keys(trial.recorded ?? {}).map((shape) => [
          shape,
          listAt(trial.recorded as Record<string, unknown>, shape, `${trial.id as string}.recorded`),
        ]),
      ),
    })) as unknown as BundleTrial[],
  };
}
