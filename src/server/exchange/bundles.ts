import canonicalize from 'canonicalize';
import { randomUUID } from 'node:crypto';
import { gunzipSync } from 'node:zlib';
import { parseBundle, type ReadBundle, type WholeBundle } from '@/core/formats/bundle';
import { BundleError } from '@/core/formats/bundleError';
import { bundleHashes } from '@/core/formats/bundleHashes';
import {
  bundleFormat,
  bundleVersion,
  type BlockPiece,
  type BundleLook,
  type BundleSample,
  type BundleTrial,
  type TracePiece,
} from '@/core/formats/bundleTypes';
import { CubeError, parseCube } from '@/core/formats/cube';
import { groupBy } from '@/core/groups';
import { volumesOfTrial } from '@/core/kinds/volumes';
import type { CellAddress } from '@/core/plan/matrix';
import { packedTraceBytes } from '@/core/playback/trace';
import { packedBlockBytes } from '@/core/storage/blocks';
import type { VolumeFacts } from '@/core/storage/volumeFacts';
import { lengthOf, lookIdsOf, type Timeline } from '@/core/timeline/model';
import type { NewTrial } from '@/db/kinds';
import {
  addResultRows,
  knownOf,
  planRows,
  recordedOf,
  recordTableNames,
  removeRig,
  resultRows,
  timelineRows,
  type Added,
  type ListedName,
  type NewRecords,
  type RecordRow,
  type RecordTable,
  type ResultRows,
} from '@/db/queries/bundles';
import { getRig } from '@/db/queries/rigs';
import { getLooks } from '@/db/queries/timelines';
import type { TrialIdentity } from '@/db/queries/trials';
import { sha256 } from '@/engine/sha256';
import { RequestError } from '../platform/errors';
import { publish } from '../platform/events';
import { currentRigId } from '../platform/rig';
import { softwareVersion } from '../platform/version';
import { relinkFrom, relinkLibrary } from '../timelines/timelines';
import { greatest } from '@/core/stats/extremes';

type Row = Readonly<Record<string, unknown>>;

/** Fields that mean something only in the database they come from. */
const ownFields = ['rigId', 'clipId', 'demo', 'origin'];
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

/** What is kept as a bundle has it. */
const jsonOf = (rows: readonly object[]): Row[] => JSON.parse(JSON.stringify(rows)) as Row[];

/** Names of a rig's things elsewhere: those of its volumes stand below it, so that two rigs may have the same. */
const below = (rigId: string) => ({
  in: (id: string) => `${rigId}:${id}`,
  out: (id: string) => (id.startsWith(`${rigId}:`) ? id.slice(rigId.length + 1) : id),
});

async function recordsByTrial(ids: readonly string[]) {
  const recorded = new Map<RecordTable, ReadonlyMap<string, readonly RecordRow[]>>();
  for (const name of recordTableNames)
    recorded.set(
      name,
      groupBy(await recordedOf(name, ids), ({ trialId }) => trialId),
    );
  return recorded;
}

/** The timelines of a rig, or those that an imported one played, with the looks that they refer to. */
async function timelinesOut(rigId: string | null, played: readonly string[]) {
  const found = await timelineRows(rigId, played);
  const versions = groupBy(found.versions, ({ timelineId }) => timelineId);
  const documents = [...found.timelines, ...found.versions].map(({ document }) => document);
  const lookIds = [...new Set(documents.flatMap((document) => [...lookIdsOf(document)]))];
  return {
    looks: (await getLooks(lookIds))
      .map(({ id, name, cube }) => ({ id, name, cube }))
      .sort((a, b) => (a.id < b.id ? -1 : 1)),
    timelines: found.timelines.map(({ id, name, document, createdAt, updatedAt, removedAt }) => ({
      id,
      name,
      document,
      createdAt,
      updatedAt,
      removed: removedAt !== null,
      versions: (versions.get(id) ?? []).map(({ timelineId: _of, ...version }) => version),
    })),
  };
}

const openSteps: readonly string[] = ['waiting', 'running'];

/** The plans of a rig. What had not ended goes out as cancelled: nothing goes on in a bundle. */
async function plansOut(rigId: string, volumeOut: (id: string) => string) {
  const found = await planRows(rigId);
  const cells = groupBy(found.cells, ({ planId }) => planId);
  const steps = groupBy(found.steps, ({ planId }) => planId);
  return found.plans.map(({ rigId: _rig, demo: _demo, imported: _imported, ...plan }) => ({
    ...plan,
    status: plan.status === 'done' ? 'done' : 'cancelled',
    settings: { ...plan.settings, volumeIds: plan.settings.volumeIds.map(volumeOut) },
    cells: (cells.get(plan.id) ?? []).map(({ planId: _of, address, ...cell }) => ({
      ...cell,
      address: mapAddress(address, volumeOut),
    })),
    steps: (steps.get(plan.id) ?? []).map(({ planId: _of, ...step }) =>
      openSteps.includes(step.status)
        ? { ...step, status: 'cancelled', outcome: 'It had not ended when it was exported.' }
        : step,
    ),
  }));
}

const mapAddress = (address: CellAddress, volumeId: (id: string) => string): CellAddress => ({
  ...address,
  volumeId: address.volumeId === null ? null : volumeId(address.volumeId),
});

/** A rig's results as a bundle: an imported rig's as well, so that it can be handed on. @throws RequestError when there is no such rig */
export async function exportBundle(rigId: string): Promise<{ bundle: WholeBundle; fileName: string }> {
  const rig = await getRig(rigId);
  if (!rig) throw new RequestError('no-such-rig');
  const found = await resultRows(rigId);
  const notes = new Map(found.notes.map(({ trialId, note, excluded }) => [trialId, { note, excluded }]));
  const recorded = await recordsByTrial(found.trials.map(({ id }) => id));
  const { out } = below(rigId);
  const played = [...new Set(found.trials.flatMap(({ timelineId }) => timelineId ?? []))];
  const { looks, timelines } = await timelinesOut(rig.imported ? null : rigId, played);
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
    volumes: jsonOf(
      found.volumes.map((volume) => ({ ...without(volume, ownVolumeFields), id: out(volume.id) })),
    ),
    looks: jsonOf(looks),
    timelines: jsonOf(timelines),
    plans: jsonOf(await plansOut(rigId, out)),
    trials: jsonOf(
      found.trials.map((row) => ({
        ...without(row, ownFields),
        subject: mapSubject(row.subject, out),
        settings: mapSettings(row.settings, out),
        volumeIds: row.volumeIds.map(out),
        annotation: notes.get(row.id) ?? null,
        recorded: Object.fromEntries(
          recordTableNames.flatMap((name) => {
            const rows = recorded.get(name)?.get(row.id);
            return rows ? [[name, rows.map(recordOut)]] : [];
          }),
        ),
      })),
    ),
  };
  return {
    // Rows are what the bundle's types are made of; what goes out is held against its schema in tests.
    bundle: { ...bundle, hashes: bundleHashes(bundle, sha256) } as unknown as WholeBundle,
    fileName: `navvy-results-${rig.name.replace(/[^\w.-]+/g, '_').slice(0, 60)}.json`,
  };
}

/** Entries of a list of a bundle: those that come in, and those that are here already and stay as they are. */
export interface Counted {
  readonly added: number;
  readonly known: number;
}

/** What a bundle holds, and what becomes of it here. */
export interface BundleReport extends Readonly<Record<ListedName, Counted>> {
  /** False where it was only read. */
  readonly stored: boolean;
  readonly rigId: string;
  readonly rigName: string;
  readonly simulated: boolean;
  /** Of the bundle. */
  readonly version: number;
  readonly exportedAt: string;
  readonly softwareVersion: string;
  /** Its hashes are right: nothing was changed since its export. Older versions have none. */
  readonly proved: boolean;
  /** What is not kept, or otherwise than it was there. */
  readonly notes: readonly string[];
}

const listedNames = ['trials', 'timelines', 'plans', 'looks'] as const satisfies readonly ListedName[];

/**
 * Reads a bundle, and takes it in where it is to be stored. What is there already stays as it is, so that a second import
 * changes nothing.
 * @throws RequestError with the place in the file that is wrong
 */
export async function importBundle(
  text: string,
  { store = true, demo = 0 }: { readonly store?: boolean; readonly demo?: number } = {},
): Promise<BundleReport> {
  const bundle = read(text);
  const there = await getRig(bundle.rig.id);
  // A rig that measures or measured into this database, and no imported one: its volumes are here under their own names.
  const here = await currentRigId();
  const isOwn = bundle.rig.id === here || (there !== null && there.imported === null);
  const simulated = (there?.imported?.simulated ?? false) || bundle.rig.simulated === true;
  const timelines = await timelinesIn(bundle, { isOwn, here, demo });
  const rows = rowsFrom(bundle, timelines, { isOwn, simulated, demo });
  const added = store ? await addResultRows(rows) : await wouldAdd(bundle);
  if (store) {
    await publish({ type: 'devices' });
    await publish({ type: 'plan', planId: '' });
  }
  const { version, exportedAt, softwareVersion: measuredBy, hashes } = bundle;
  return {
    stored: store,
    rigId: bundle.rig.id,
    rigName: there?.name ?? bundle.rig.name,
    simulated,
    version,
    exportedAt,
    softwareVersion: measuredBy,
    proved: hashes !== null,
    ...(Object.fromEntries(
      listedNames.map((name) => [name, { added: added[name], known: bundle[name].length - added[name] }]),
    ) as unknown as Record<ListedName, Counted>),
    notes: notesOn(bundle, timelines),
  };
}

async function wouldAdd(bundle: ReadBundle): Promise<Added> {
  const counts: Partial<Record<ListedName, number>> = {};
  for (const name of listedNames) {
    const ids = bundle[name].map(({ id }) => id);
    counts[name] = ids.length - (await knownOf(name, ids)).size;
  }
  return counts as Added;
}

function notesOn({ version, hashes }: ReadBundle, { missing, choices }: TimelinesIn): string[] {
  const media = (count: number) => (count === 1 ? '1 medium' : `${count} media`);
  return [
    ...(hashes === null
      ? [
          `The bundle is of version ${version}, which has no hashes: whether it was changed since its export cannot be told. Timelines and matrices did not go along then.`,
        ]
      : []),
    ...(missing > 0
      ? [
          `${media(missing)} of its timelines ${missing === 1 ? 'is' : 'are'} not in this library. Add the volumes that hold them and relink.`,
        ]
      : []),
    ...(choices > 0
      ? [`${media(choices)} of its timelines may be several files here. Choose in the timeline, under Media.`]
      : []),
  ];
}

function read(text: string): ReadBundle {
  try {
    return parseBundle(text, sha256);
  } catch (error) {
    if (error instanceof BundleError)
      throw new RequestError('bundle-unsound', { problem: error.message }, 'file');
    throw error;
  }
}

/** Timelines of a bundle as they are kept here. */
interface TimelinesIn extends Pick<ResultRows, 'timelines' | 'versions'> {
  /** The number that a version of a timeline has here. */
  readonly numberOf: (timelineId: string, version: number) => number;
  /** Media of timelines that are new here which no file of the library is, and which several may be. */
  readonly missing: number;
  readonly choices: number;
}

/** Media as they are told from each other on any rig: without the clips that they are linked to there. */
const unlinked = (timeline: Timeline): Timeline => ({
  ...timeline,
  media: Object.fromEntries(
    Object.entries(timeline.media).map(([id, ref]) => [id, { ...ref, clipId: null }]),
  ),
});
const sameness = (document: Timeline) => sha256(canonicalize(unlinked(document)) as string);

async function timelinesIn(
  { timelines }: ReadBundle,
  { isOwn, here, demo }: Pick<Taken, 'isOwn' | 'demo'> & { readonly here: string },
): Promise<TimelinesIn> {
  const found = await timelineRows(
    null,
    timelines.map(({ id }) => id),
  );
  const known = new Set(found.timelines.map(({ id }) => id));
  const there = groupBy(found.versions, ({ timelineId }) => timelineId);
  const library = isOwn || timelines.every(({ id }) => known.has(id)) ? null : await relinkLibrary();
  const rows: ResultRows['timelines'][number][] = [];
  const versionRows: ResultRows['versions'][number][] = [];
  const numbers = new Map<string, number>();
  let missing = 0;
  let choices = 0;
  for (const { id, name, document, versions = [], createdAt, updatedAt, removed } of timelines) {
    // On another rig the clips are other files.
    const foreign = (of: Timeline) => (isOwn ? of : unlinked(of));
    if (!known.has(id)) {
      const linked = library ? relinkFrom(library, unlinked(document)) : null;
      missing += linked?.report.missing.length ?? 0;
      choices += linked?.report.choices.length ?? 0;
      const kept = linked?.timeline ?? document;
      rows.push({
        id,
        rigId: here,
        name,
        document: kept,
        slots: lengthOf(kept),
        demo,
        createdAt: new Date(createdAt),
        updatedAt: new Date(updatedAt),
        removedAt: removed === true ? new Date(updatedAt) : null,
      });
    }
    const taken = new Map(
      (there.get(id) ?? []).map((version) => [version.number, sameness(version.document)]),
    );
    for (const version of versions) {
      const same = sameness(version.document);
      const number = numberFor(version.number, same, taken);
      numbers.set(`${id} ${version.number}`, number);
      if (taken.has(number)) continue;
      taken.set(number, same);
      versionRows.push({
        timelineId: id,
        number,
        name: version.name ?? null,
        document: foreign(version.document),
        createdAt: new Date(version.createdAt),
      });
    }
  }
  return {
    timelines: rows,
    versions: versionRows,
    numberOf: (timelineId, version) => numbers.get(`${timelineId} ${version}`) ?? version,
    missing,
    choices,
  };
}

/** The number for a version: that of the same document here, its own where that is free, or else the next free one. */
function numberFor(wanted: number, same: string, taken: ReadonlyMap<number, string>): number {
  if (taken.get(wanted) === same) return wanted;
  for (const [number, there] of taken) if (there === same) return number;
  return taken.has(wanted) ? greatest([...taken.keys()], 0) + 1 : wanted;
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

function rowsFrom(bundle: ReadBundle, timelines: TimelinesIn, taken: Taken): ResultRows {
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

/** A subject with the number that its timeline's version has here. */
function mapVersion(subject: Subject, numberOf: TimelinesIn['numberOf']): Subject {
  if (!('timeline' in subject) || !subject.timeline) return subject;
  const { id, version } = subject.timeline;
  return { ...subject, timeline: { ...subject.timeline, version: numberOf(id, version) } };
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
