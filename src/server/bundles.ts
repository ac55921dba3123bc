import { groupBy } from '@/core/groups';
import {
  BundleError,
  bundleFormat,
  bundleVersion,
  parseBundle,
  type BundleTrial,
  type JsonRecord,
  type ResultBundle,
} from '@/core/formats/bundle';
import { addResultRows, removeRig, resultRows, type ResultRows } from '@/db/queries/bundles';
import { getRig } from '@/db/queries/rigs';
import type { trials } from '@/db/schema';
import type { VolumeFacts } from '@/engine/volume';
import { RequestError } from './errors';
import { publish } from './events';
import { currentRigId } from './rig';
import { softwareVersion } from './version';

/** Fields that mean something only in the database they come from. */
const ownFields = [
  'rigId',
  'clipId',
  'demo',
  'cancelRequestedAt',
  'charges',
  'progress',
  'record',
  'rampStreams',
];

function without(row: JsonRecord, fields: readonly string[]): JsonRecord {
  return Object.fromEntries(Object.entries(row).filter(([field]) => !fields.includes(field)));
}

/** A rig's results as a bundle: an imported rig's as well, so that it can be handed on. @throws RequestError when there is no such rig */
export async function exportBundle(rigId: string): Promise<{ bundle: ResultBundle; fileName: string }> {
  const rig = await getRig(rigId);
  if (!rig) throw new RequestError('There is no such rig.', 404);
  const found = await resultRows(rigId);
  const notes = new Map(found.notes.map(({ trialId, note, excluded }) => [trialId, { note, excluded }]));
  const pieces = groupBy(found.traces, ({ trialId }) => trialId);
  const trial = (row: { readonly id: string }) =>
    ({ ...without(row, ownFields), annotation: notes.get(row.id) ?? null }) as unknown as BundleTrial;
  const bundle: ResultBundle = {
    format: bundleFormat,
    version: bundleVersion,
    exportedAt: new Date().toISOString(),
    softwareVersion: rig.imported?.softwareVersion ?? softwareVersion(),
    rig: {
      id: rig.id,
      name: rig.name,
      identity: rig.identity as unknown as JsonRecord,
      simulated: rig.imported?.simulated ?? false,
    },
    volumes: found.volumes.map((volume) => ({
      ...without(volume as unknown as JsonRecord, ['rigId', 'demo', 'path', 'scan', 'lastScan', 'scannedAt']),
      id: volume.id,
      name: volume.name,
      kind: volume.kind,
    })),
    playback: found.playback.map((row) => ({
      ...trial(row),
      slotCount: row.slotCount,
      charges: row.charges?.toString('base64') ?? null,
      trace: (pieces.get(row.id) ?? []).map(({ fromSlot, slots, data }) => ({
        fromSlot,
        slots,
        data: data.toString('base64'),
      })),
    })),
    storage: found.storage.map((row) => ({ ...trial(row), rampStreams: row.rampStreams })),
    decode: found.decode.map((row) => ({ ...trial(row), record: row.record })),
    timelineTests: found.timelineTests.map((row) => ({ ...trial(row), record: row.record })),
  };
  return { bundle, fileName: `navvy-results-${rig.name.replace(/[^\w.-]+/g, '_').slice(0, 60)}.json` };
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
  const isThisRig = bundle.rig.id === (await currentRigId());
  const trialsInside = [bundle.playback, bundle.storage, bundle.decode, bundle.timelineTests].reduce(
    (sum, list) => sum + list.length,
    0,
  );
  const rows = rowsFrom(bundle, isThisRig, demo);
  const added = await addResultRows(rows, isThisRig).catch((error: unknown) => {
    throw error instanceof TypeError || error instanceof RangeError
      ? new RequestError(
          'The bundle holds a value that cannot be stored. Export it again from the Navvy that made it.',
        )
      : error;
  });
  await publish({ type: 'devices' });
  return {
    rigId: bundle.rig.id,
    rigName: bundle.rig.name,
    simulated: bundle.rig.simulated,
    added,
    known: trialsInside - added,
  };
}

function read(text: string): ResultBundle {
  try {
    return parseBundle(text);
  } catch (error) {
    if (error instanceof BundleError) throw new RequestError(error.message, 400, 'file');
    throw error;
  }
}

const noFacts: VolumeFacts = {
  fileSystem: 'not told',
  device: 'not told',
  mountPoint: '',
  sizeBytes: 0,
  freeBytes: 0,
  rotational: null,
  writable: false,
};
const times = ['createdAt', 'startedAt', 'endedAt'] as const;

function rowsFrom(bundle: ResultBundle, isThisRig: boolean, demo: number): ResultRows {
  const { rig } = bundle;
  // Volumes of another rig may have the names of this one's.
  const volumeId = (id: string) => (isThisRig ? id : `${rig.id}:${id}`);
  const row = (trial: BundleTrial): JsonRecord => {
    const { annotation: _annotation, ...rest } = trial;
    const dates = Object.fromEntries(
      times.flatMap((field) => (typeof trial[field] === 'string' ? [[field, new Date(trial[field])]] : [])),
    );
    return { ...rest, ...dates, rigId: rig.id, demo, subject: mapSubject(trial.subject, volumeId) };
  };
  return {
    rig: {
      id: rig.id,
      name: rig.name,
      identity: rig.identity as never,
      imported: {
        simulated: rig.simulated,
        softwareVersion: bundle.softwareVersion,
        exportedAt: bundle.exportedAt,
      },
    },
    volumes: bundle.volumes.map(({ id, name, kind, ...volume }) => ({
      id: volumeId(id),
      rigId: rig.id,
      name,
      kind: kind as never,
      path: '',
      facts: (volume.facts as VolumeFacts | undefined) ?? noFacts,
      link: textOr(volume.link),
      notes: textOr(volume.notes),
      price: typeof volume.price === 'number' ? volume.price : null,
      standIn: (volume.standIn ?? null) as never,
      cacheBytes: typeof volume.cacheBytes === 'number' ? volume.cacheBytes : 0,
      demo,
    })),
    playback: bundle.playback.map(
      ({ trace: _trace, ...trial }) =>
        ({
          ...row(trial),
          clipId: null,
          charges: typeof trial.charges === 'string' ? Buffer.from(trial.charges, 'base64') : null,
        }) as unknown as typeof trials.$inferInsert,
    ),
    traces: bundle.playback.flatMap(({ id, trace }) =>
      trace.map(({ fromSlot, slots, data }) => ({
        trialId: id,
        fromSlot,
        slots,
        data: Buffer.from(data, 'base64'),
      })),
    ),
    storage: bundle.storage.map((trial) => ({
      ...row(trial),
      volumeId: typeof trial.volumeId === 'string' ? volumeId(trial.volumeId) : null,
    })) as never,
    decode: bundle.decode.map((trial) => ({ ...row(trial), clipId: null })) as never,
    timelineTests: bundle.timelineTests.map(row) as never,
  };
}

const textOr = (value: unknown) => (typeof value === 'string' ? value : '');

/** A subject with its volumes under the names that they have here. */
function mapSubject(subject: JsonRecord, volumeId: (id: string) => string): JsonRecord {
  const own =
    typeof subject.volumeId === 'string' ? { ...subject, volumeId: volumeId(subject.volumeId) } : subject;
  const { timeline } = own as { timeline?: { media?: Record<string, { volumeId: string }> } };
  if (!timeline?.media) return own;
  const media = Object.fromEntries(
    Object.entries(timeline.media).map(([id, use]) => [id, { ...use, volumeId: volumeId(use.volumeId) }]),
  );
  return { ...own, timeline: { ...timeline, media } };
}

/** Forgets an imported rig and its results. @throws RequestError for this rig, whose results are its own */
export async function forgetRig(rigId: string): Promise<void> {
  if (rigId === (await currentRigId()))
    throw new RequestError('This is the rig itself. Remove its trials one by one.', 409);
  const rig = await getRig(rigId);
  if (!rig?.imported) throw new RequestError('There is no imported rig with this address.', 404);
  await removeRig(rigId);
  await publish({ type: 'devices' });
}
