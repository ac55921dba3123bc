import { randomUUID } from 'node:crypto';
import { gunzipSync } from 'node:zlib';
import { parseBundle, type WholeBundle } from '@/core/formats/bundle';
import { BundleError } from '@/core/formats/bundleError';
import {
  bundleFormat,
  bundleVersion,
  type BlockPiece,
  type BundleSample,
  type BundleTrial,
  type TracePiece,
} from '@/core/formats/bundleTypes';
import { groupBy } from '@/core/groups';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { packedTraceBytes } from '@/core/playback/trace';
import { packedBlockBytes } from '@/core/storage/blocks';
import type { VolumeFacts } from '@/core/storage/volumeFacts';
import type { NewTrial } from '@/db/kinds';
import {
  addResultRows,
  recordedOf,
  recordTableNames,
  removeRig,
  resultRows,
  type NewRecords,
  type RecordRow,
  type RecordTable,
  type ResultRows,
} from '@/db/queries/bundles';
import { getRig } from '@/db/queries/rigs';
import type { TrialIdentity } from '@/db/queries/trials';
import { RequestError } from '../platform/errors';
import { publish } from '../platform/events';
import { currentRigId } from '../platform/rig';
import { softwareVersion } from '../platform/version';
import { greatest } from '@/core/stats/extremes';

type Row = Readonly<Record<string, unknown>>;

/** Fields that mean something only in the database they come from. */
const ownFields = ['rigId', 'clipId', 'demo', 'origin', 'planId', 'planCell', 'attemptOf'];
const ownRecordFields = ['id', 'trialId', 'sourceClipId', 'outputClipId'];
const ownVolumeFields = ['rigId', 'demo', 'path', 'scan', 'lastScan', 'scannedAt', 'createdAt'];

function without(row: object, fields: readonly string[]): Row {
  return Object.fromEntries(Object.entries(row).filter(([field]) => !fields.includes(field)));
}

function recordOut(row: RecordRow): Row {
  return Object.fromEntries(
    Object.entries(without(row, ownRecordFields)).map(([field, value]) => [
      field,
      value instanceof Buffer ? value.toString('base64') : value,
    ]),
  );
}

/** A rig's results as a bundle: an imported rig's as well, so that it can be handed on. @throws RequestError when there is no such rig */
export async function exportBundle(rigId: string): Promise<{ bundle: WholeBundle; fileName: string }> {
  const rig = await getRig(rigId);
  if (!rig) throw new RequestError('no-such-rig');
  const found = await resultRows(rigId);
  const notes = new Map(found.notes.map(({ trialId, note, excluded }) => [trialId, { note, excluded }]));
  const ids = found.trials.map(({ id }) => id);
  const recorded = new Map<RecordTable, ReadonlyMap<string, readonly RecordRow[]>>();
  for (const name of recordTableNames)
    recorded.set(
      name,
      groupBy(await recordedOf(name, ids), ({ trialId }) => trialId),
    );
  const bundle = {
    format: bundleFormat,
    version: bundleVersion,
    exportedAt: new Date().toISOString(),
    softwareVersion: rig.imported?.softwareVersion ?? softwareVersion(),
    rig: {
      id: rig.id,
      name: rig.name,
      identity: rig.identity,
      simulated: rig.imported?.simulated ?? false,
    },
    volumes: found.volumes.map((volume) => without(volume, ownVolumeFields)),
    trials: found.trials.map((row) => ({
      ...without(row, ownFields),
      annotation: notes.get(row.id) ?? null,
      recorded: Object.fromEntries(
        recordTableNames.flatMap((name) => {
          const rows = recorded.get(name)?.get(row.id);
          return rows ? [[name, rows.map(recordOut)]] : [];
        }),
      ),
    })),
  };
  return {
    // Rows are what the bundle's types are made of; what goes out is held against its schema in tests.
    bundle: bundle as unknown as WholeBundle,
    fileName: `navvy-results-${rig.name.replace(/[^\w.-]+/g, '_').slice(0, 60)}.json`,
  };
}

export interface ImportedBundle {
  readonly rigId: string;
  readonly rigName: string;
  readonly simulated: boolean;
  readonly added: number;
  readonly known: number;
}

/**
 * Takes a bundle in. What is there already stays as it is, so that a second import changes nothing.
 * @throws RequestError with the place in the file that is wrong
 */
export async function importBundle(text: string, demo = 0): Promise<ImportedBundle> {
  const bundle = read(text);
  const there = await getRig(bundle.rig.id);
  // A rig that measures or measured into this database, and no imported one: its volumes are here under their own names.
  const isOwn = bundle.rig.id === (await currentRigId()) || (there !== null && there.imported === null);
  const simulated = (there?.imported?.simulated ?? false) || bundle.rig.simulated === true;
  const added = await addResultRows(rowsFrom(bundle, { isOwn, simulated, demo }));
  await publish({ type: 'devices' });
  return {
    rigId: bundle.rig.id,
    rigName: there?.name ?? bundle.rig.name,
    simulated,
    added,
    known: bundle.trials.length - added,
  };
}

function read(text: string): WholeBundle {
  try {
    return parseBundle(text);
  } catch (error) {
    if (error instanceof BundleError)
      throw new RequestError('bundle-unsound', { problem: error.message }, 'file');
    throw error;
  }
}

const noFacts: VolumeFacts = {
  fileSystem: 'not reported',
  device: 'not reported',
  mountPoint: '',
  sizeBytes: 0,
  freeBytes: 0,
  rotational: null,
  writable: false,
};

/** How a bundle is taken in. */
interface Taken {
  /** Of a rig that measures into this database. */
  readonly isOwn: boolean;
  readonly simulated: boolean;
  readonly demo: number;
}

function rowsFrom(bundle: WholeBundle, taken: Taken): ResultRows {
  const { rig } = bundle;
  const { isOwn, simulated, demo } = taken;
  // Volumes of another rig may have the names of this one's.
  const volumeId = (id: string) => (isOwn ? id : `${rig.id}:${id}`);
  return {
    rig: isOwn
      ? null
      : {
          id: rig.id,
          name: rig.name,
          identity: rig.identity,
          imported: {
            simulated,
            softwareVersion: bundle.softwareVersion,
            exportedAt: bundle.exportedAt,
          },
        },
    volumes: isOwn
      ? []
      : bundle.volumes.map((volume) => ({
          id: volumeId(volume.id),
          rigId: rig.id,
          name: volume.name,
          kind: volume.kind,
          path: '',
          facts: volume.facts ?? noFacts,
          link: volume.link ?? '',
          notes: volume.notes ?? '',
          price: volume.price ?? null,
          standIn: volume.standIn ?? null,
          cacheBytes: volume.cacheBytes ?? 0,
          demo,
        })),
    trials: bundle.trials.map((trial) => trialRow(trial, bundle.rig.id, volumeId, taken)),
    recorded: new Map(bundle.trials.map((trial, index) => [trial.id, recordsOf(trial, `trials[${index}]`)])),
    notes: bundle.trials.flatMap(({ id, annotation }) => {
      const note = annotation?.note ?? '';
      const excluded = annotation?.excluded ?? null;
      return note === '' && excluded === null ? [] : [{ trialId: id, note, excluded }];
    }),
  };
}

const dateOf = (time: string | null | undefined) => (time == null ? null : new Date(time));

function trialRow(
  trial: BundleTrial,
  rigId: string,
  volumeId: (id: string) => string,
  { isOwn, simulated, demo }: Taken,
): NewTrial & TrialIdentity {
  const subject = mapSubject(trial.subject, volumeId);
  return {
    id: trial.id,
    kind: trial.kind,
    rigId,
    clipId: null,
    volumeIds:
      trial.volumeIds?.map(volumeId) ?? volumesOfTrial(subject as Parameters<typeof volumesOfTrial>[0]),
    timelineId: trial.timelineId ?? ('timeline' in subject ? subject.timeline?.id : undefined) ?? null,
    subject,
    settings: mapSettings(trial.settings, volumeId),
    status: trial.status,
    outcome: trial.outcome ?? null,
    detail: trial.detail ?? null,
    conditions: trial.conditions ?? null,
    load: trial.load ?? null,
    progress: trial.progress ?? null,
    summary: trial.summary ?? null,
    origin: isOwn ? 'measured' : 'imported',
    simulated: simulated || trial.simulated === true,
    demo,
    createdAt: new Date(trial.createdAt),
    startedAt: dateOf(trial.startedAt),
    endedAt: dateOf(trial.endedAt),
    // One kind's fields together, which only the schema knows.
  } as NewTrial & TrialIdentity;
}

/** Packed columns as they are kept. @param sizes that they may have unpacked @throws RequestError where they have another */
function packed(data: string, sizes: readonly number[], place: string): Buffer {
  const bytes = Buffer.from(data, 'base64');
  try {
    if (sizes.includes(gunzipSync(bytes, { maxOutputLength: greatest(sizes, 1) }).length)) return bytes;
  } catch {
    // As below.
  }
  throw new RequestError('bundle-data-cut', { place }, 'file');
}

function tracesOf(pieces: readonly TracePiece[], place: string) {
  return pieces.map(({ fromSlot, slots, data }, index) => ({
    fromSlot,
    slots,
    data: packed(data, packedTraceBytes(slots), `${place}.traces[${index}]`),
  }));
}

function blocksOf(pieces: readonly BlockPiece[], place: string) {
  return pieces.map(({ fromBlock, blocks, data }, index) => ({
    fromBlock,
    blocks,
    data: packed(data, [packedBlockBytes(blocks)], `${place}.blocks[${index}]`),
  }));
}

const wholeOf = (bytes: number | null | undefined) => (bytes == null ? null : Math.round(bytes));

const sampleRow = ({ at, graphicsMemoryBytes, trialGraphicsMemoryBytes, ...sample }: BundleSample) => ({
  ...sample,
  at: new Date(at),
  graphicsMemoryBytes: wholeOf(graphicsMemoryBytes),
  trialGraphicsMemoryBytes: wholeOf(trialGraphicsMemoryBytes),
});

/** What was recorded of a trial as it is kept. @throws RequestError for packed columns that do not hold what they say */
function recordsOf({ recorded = {} }: BundleTrial, trialPlace: string): NewRecords {
  const place = `${trialPlace}.recorded`;
  const {
    traces = [],
    charges = [],
    blocks = [],
    files = [],
    items = [],
    records = [],
    samples = [],
  } = recorded;
  return {
    traces: tracesOf(traces, place),
    charges: charges.map((one) => ({ charges: Buffer.from(one.charges, 'base64') })),
    blocks: blocksOf(blocks, place),
    files,
    records: (records as readonly { readonly record: never }[]).map(({ record }) => ({ record })),
    items: items.map((item) => ({
      id: randomUUID(),
      position: item.position,
      sourcePath: item.sourcePath,
      sourceHash: item.sourceHash ?? null,
      sourceFormat: item.sourceFormat,
      sourceFrames: item.sourceFrames,
      sourceBytes: item.sourceBytes,
      settingsKey: item.settingsKey,
      status: item.status,
      outcome: item.outcome ?? null,
      detail: item.detail ?? null,
      outputPath: item.outputPath,
      work: item.work ?? null,
      frameCheck: item.frameCheck ?? null,
    })),
    samples: samples.map(sampleRow),
  };
}

type Subject = BundleTrial['subject'];

/** A subject with its volumes under the names that they have here. */
function mapSubject(subject: Subject, volumeId: (id: string) => string): Subject {
  const own =
    'volumeId' in subject && typeof subject.volumeId === 'string'
      ? { ...subject, volumeId: volumeId(subject.volumeId) }
      : subject;
  if (!('timeline' in own) || !own.timeline) return own;
  const media = Object.fromEntries(
    Object.entries(own.timeline.media).map(([id, use]) => [id, { ...use, volumeId: volumeId(use.volumeId) }]),
  );
  return { ...own, timeline: { ...own.timeline, media } };
}

type Settings = BundleTrial['settings'];

/** Settings with the volumes that they go to under the names that they have here. */
function mapSettings(settings: Settings, volumeId: (id: string) => string): Settings {
  if ('destinations' in settings)
    return {
      ...settings,
      destinations: settings.destinations.map((target) => ({
        ...target,
        volumeId: volumeId(target.volumeId),
      })),
    };
  return 'volumeId' in settings ? { ...settings, volumeId: volumeId(settings.volumeId) } : settings;
}

/** Forgets an imported rig and its results. @throws RequestError for this rig, whose results are its own */
export async function forgetRig(rigId: string): Promise<void> {
  if (rigId === (await currentRigId())) throw new RequestError('own-rig');
  const rig = await getRig(rigId);
  if (!rig?.imported) throw new RequestError('no-such-imported-rig');
  await removeRig(rigId);
  await publish({ type: 'devices' });
}
