import { randomUUID } from 'node:crypto';
import {
  BundleError,
  bundleFormat,
  bundleVersion,
  parseBundle,
  type BundleTrial,
  type JsonRecord,
  type ResultBundle,
} from '@/core/formats/bundle';
import { groupBy } from '@/core/groups';
import { volumesOfTrial } from '@/core/kinds/volumes';
import {
  addResultRows,
  recordedOf,
  recordTableNames,
  removeRig,
  resultRows,
  type RecordRow,
  type RecordTable,
  type ResultRows,
} from '@/db/queries/bundles';
import { getRig } from '@/db/queries/rigs';
import { RequestError } from './errors';
import { publish } from './events';
import { currentRigId } from './rig';
import { softwareVersion } from './version';
import type { VolumeFacts } from '@/core/storage/volumeFacts';

/** Fields that mean something only in the database they come from. */
const ownFields = ['rigId', 'clipId', 'demo', 'origin', 'planId', 'planCell', 'attemptOf'];
const ownRecordFields = ['id', 'trialId', 'sourceClipId', 'outputClipId'];
/** Of records: bytes, and times. */
const bytes: readonly string[] = ['data', 'charges'];

function without(row: JsonRecord, fields: readonly string[]): JsonRecord {
  return Object.fromEntries(Object.entries(row).filter(([field]) => !fields.includes(field)));
}

function recordOut(row: RecordRow): JsonRecord {
  return Object.fromEntries(
    Object.entries(without(row, ownRecordFields)).map(([field, value]) => [
      field,
      value instanceof Buffer ? value.toString('base64') : value,
    ]),
  );
}

function recordIn(name: RecordTable, trialId: string, row: JsonRecord): RecordRow {
  const fields = Object.entries(without(row, ownRecordFields)).map(([field, value]) => [
    field,
    bytes.includes(field) && typeof value === 'string'
      ? Buffer.from(value, 'base64')
      : field === 'at' && typeof value === 'string'
        ? new Date(value)
        : value,
  ]);
  const own = name === 'items' ? { id: randomUUID(), trialId } : { trialId };
  return { ...(Object.fromEntries(fields) as JsonRecord), ...own };
}

/** A rig's results as a bundle: an imported rig's as well, so that it can be handed on. @throws RequestError when there is no such rig */
export async function exportBundle(rigId: string): Promise<{ bundle: ResultBundle; fileName: string }> {
  const rig = await getRig(rigId);
  if (!rig) throw new RequestError('There is no such rig.', 404);
  const found = await resultRows(rigId);
  const notes = new Map(found.notes.map(({ trialId, note, excluded }) => [trialId, { note, excluded }]));
  const ids = found.trials.map(({ id }) => id);
  const recorded = new Map<RecordTable, ReadonlyMap<string, readonly RecordRow[]>>();
  for (const name of recordTableNames)
    recorded.set(
      name,
      groupBy(await recordedOf(name, ids), ({ trialId }) => trialId),
    );
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
    trials: found.trials.map((row) => ({
      ...(without(row as unknown as JsonRecord, ownFields) as unknown as BundleTrial),
      annotation: notes.get(row.id) ?? null,
      recorded: Object.fromEntries(
        recordTableNames.flatMap((name) => {
          const rows = recorded.get(name)?.get(row.id);
          return rows ? [[name, rows.map(recordOut)]] : [];
        }),
      ),
    })),
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
  const added = await addResultRows(rowsFrom(bundle, isThisRig, demo), isThisRig).catch((error: unknown) => {
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
    known: bundle.trials.length - added,
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
  const row = ({ annotation: _annotation, recorded: _recorded, ...trial }: BundleTrial) => {
    const dates = Object.fromEntries(
      times.flatMap((field) => (typeof trial[field] === 'string' ? [[field, new Date(trial[field])]] : [])),
    );
    const subject = mapSubject(trial.subject, volumeId);
    const told = Array.isArray(trial.volumeIds)
      ? trial.volumeIds.map(String).map(volumeId)
      : volumesOfTrial(subject);
    return {
      ...without(trial, ownFields),
      ...dates,
      rigId: rig.id,
      clipId: null,
      demo,
      subject,
      settings: mapSettings(trial.settings, volumeId),
      volumeIds: told,
      timelineId: trial.timelineId ?? (subject.timeline as { id?: string } | undefined)?.id ?? null,
      origin: isThisRig ? 'measured' : 'imported',
      simulated: rig.simulated || trial.simulated === true,
    };
  };
  const recorded = (name: RecordTable) =>
    bundle.trials.flatMap(({ id, recorded: of }) => (of[name] ?? []).map((one) => recordIn(name, id, one)));
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
    trials: bundle.trials.map(row) as never,
    recorded: Object.fromEntries(recordTableNames.map((name) => [name, recorded(name)])),
    notes: bundle.trials.flatMap(({ id, annotation }) => {
      const { note, excluded } = (annotation ?? {}) as { note?: unknown; excluded?: unknown };
      const said = { note: textOr(note), excluded: typeof excluded === 'string' ? excluded : null };
      return said.note === '' && said.excluded === null ? [] : [{ trialId: id, ...said }];
    }),
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

/** Settings with the volumes that they go to under the names that they have here. */
function mapSettings(settings: JsonRecord, volumeId: (id: string) => string): JsonRecord {
  const own =
    typeof settings.volumeId === 'string' ? { ...settings, volumeId: volumeId(settings.volumeId) } : settings;
  const { destinations } = own as { destinations?: readonly { volumeId: string }[] };
  if (!Array.isArray(destinations)) return own;
  return {
    ...own,
    destinations: destinations.map((target: { volumeId: string }) => ({
      ...target,
      volumeId: volumeId(target.volumeId),
    })),
  };
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
