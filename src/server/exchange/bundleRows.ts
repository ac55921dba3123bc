import { randomUUID } from 'node:crypto';
import { gunzipSync } from 'node:zlib';
import type { ReadBundle } from '@/core/formats/bundle';
import type {
  BlockPiece,
  BundleLook,
  BundleSample,
  BundleTrial,
  TracePiece,
} from '@/core/formats/bundleTypes';
import { CubeError, parseCube } from '@/core/formats/cube';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { packedTraceBytes } from '@/core/playback/trace';
import { greatest } from '@/core/stats/extremes';
import { packedBlockBytes } from '@/core/storage/blocks';
import type { VolumeFacts } from '@/core/storage/volumeFacts';
import type { NewTrial } from '@/db/kinds';
import type { NewRecords, ResultRows } from '@/db/queries/bundles';
import type { TrialIdentity } from '@/db/queries/trials';
import { RequestError } from '../platform/errors';
import type { TimelinesIn } from './timelinesIn';
import { below, mapAddress, mapSettings, mapSubject, type Subject } from './volumeNames';

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

/** What is to be stored of a bundle. @throws RequestError for packed columns and looks that cannot be read */
export function rowsFrom(bundle: ReadBundle, timelines: TimelinesIn, taken: Taken): ResultRows {
  const { rig } = bundle;
  const { isOwn, simulated, demo } = taken;
  // Volumes of another rig may have the names of this one's.
  const volumeId = isOwn ? (id: string) => id : below(rig.id).in;
  const planIds = new Set(bundle.plans.map(({ id }) => id));
  const place: Places = { volumeId, numberOf: timelines.numberOf, planIds };
  return {
    ...planRowsFrom(bundle, volumeId, demo),
    looks: bundle.looks.map(lookRow),
    timelines: timelines.timelines,
    versions: timelines.versions,
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
    trials: bundle.trials.map((trial) => trialRow(trial, bundle.rig.id, place, taken)),
    recorded: new Map(bundle.trials.map((trial, index) => [trial.id, recordsOf(trial, `trials[${index}]`)])),
    notes: bundle.trials.flatMap(({ id, annotation }) => {
      const note = annotation?.note ?? '';
      const excluded = annotation?.excluded ?? null;
      return note === '' && excluded === null ? [] : [{ trialId: id, note, excluded }];
    }),
  };
}

/** A look as it is kept. @throws RequestError for a table that cannot be read */
function lookRow({ id, name, cube }: BundleLook, index: number): ResultRows['looks'][number] {
  try {
    const { dimensions, size } = parseCube(cube);
    return { id, name, cube, dimensions, size };
  } catch (error) {
    if (!(error instanceof CubeError)) throw error;
    throw new RequestError('bundle-unsound', { problem: `looks[${index}].cube: ${error.message}` }, 'file');
  }
}

/** Plans with what they are made of, none of which is ever run again here. */
function planRowsFrom(
  { rig, plans, trials }: ReadBundle,
  volumeId: (id: string) => string,
  demo: number,
): Pick<ResultRows, 'plans' | 'cells' | 'steps'> {
  const madeBy = new Map(
    trials.map(({ planId, planCell, kind, subject, settings }) => [
      `${planId} ${planCell}`,
      { kind, subject, settings },
    ]),
  );
  return {
    plans: plans.map(({ id, name, question, settings, status, createdAt, startedAt, endedAt }) => ({
      id,
      rigId: rig.id,
      name,
      question,
      settings: { ...settings, volumeIds: settings.volumeIds.map(volumeId) },
      status,
      imported: true,
      demo,
      createdAt: new Date(createdAt),
      startedAt: dateOf(startedAt),
      endedAt: dateOf(endedAt),
    })),
    cells: plans.flatMap(({ id, cells }) =>
      cells.map(({ cell, address, labels, expectedMs }) => ({
        planId: id,
        cell,
        address: mapAddress(address, volumeId),
        labels,
        // What its trials were made of; nothing is made of it again.
        template: (madeBy.get(`${id} ${cell}`) ?? {
          kind: address.test,
          subject: {},
          settings: {},
        }) as NewTrial,
        expectedMs,
      })),
    ),
    steps: plans.flatMap(({ id, steps }) =>
      steps.map(
        ({ position, cell, repeat, status, trialId, attempts, outcome, inDoubt, startedAt, endedAt }) => ({
          planId: id,
          position,
          cell,
          repeat,
          status,
          trialId: trialId ?? null,
          attempts,
          outcome: outcome ?? null,
          inDoubt,
          startedAt: dateOf(startedAt),
          endedAt: dateOf(endedAt),
        }),
      ),
    ),
  };
}

/** What the names in a bundle are here. */
interface Places {
  readonly volumeId: (id: string) => string;
  readonly numberOf: TimelinesIn['numberOf'];
  /** Of the plans that the bundle holds. */
  readonly planIds: ReadonlySet<string>;
}

const dateOf = (time: string | null | undefined) => (time == null ? null : new Date(time));

function trialRow(
  trial: BundleTrial,
  rigId: string,
  { volumeId, numberOf, planIds }: Places,
  { isOwn, simulated, demo }: Taken,
): NewTrial & TrialIdentity {
  const subject = mapVersion(mapSubject(trial.subject, volumeId), numberOf);
  const planId = trial.planId != null && planIds.has(trial.planId) ? trial.planId : null;
  return {
    id: trial.id,
    kind: trial.kind,
    rigId,
    clipId: null,
    volumeIds:
      trial.volumeIds?.map(volumeId) ?? volumesOfTrial(subject as Parameters<typeof volumesOfTrial>[0]),
    timelineId: trial.timelineId ?? ('timeline' in subject ? subject.timeline?.id : undefined) ?? null,
    planId,
    planCell: planId === null ? null : wholeOf(trial.planCell),
    attemptOf: trial.attemptOf ?? null,
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
    checked = [],
    items = [],
    records = [],
    samples = [],
  } = recorded;
  return {
    traces: tracesOf(traces, place),
    charges: charges.map((one) => ({ charges: Buffer.from(one.charges, 'base64') })),
    blocks: blocksOf(blocks, place),
    files,
    checked,
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

/** A subject with the number that its timeline's version has here. */
function mapVersion(subject: Subject, numberOf: TimelinesIn['numberOf']): Subject {
  if (!('timeline' in subject) || !subject.timeline) return subject;
  const { id, version } = subject.timeline;
  return { ...subject, timeline: { ...subject.timeline, version: numberOf(id, version) } };
}
