import type { WholeBundle } from '@/core/formats/bundle';
import { bundleHashes } from '@/core/formats/bundleHashes';
import { bundleFormat, bundleVersion } from '@/core/formats/bundleTypes';
import { groupBy } from '@/core/groups';
import { lookIdsOf } from '@/core/timeline/model';
import {
  planRows,
  recordedOf,
  recordTableNames,
  resultRows,
  timelineRows,
  type RecordRow,
  type RecordTable,
} from '@/db/queries/bundles';
import { getRig } from '@/db/queries/rigs';
import { getLooks } from '@/db/queries/timelines';
import { sha256 } from '@/engine/sha256';
import { RequestError } from '../platform/errors';
import { softwareVersion } from '../platform/version';
import { below, mapAddress, mapSettings, mapSubject } from './volumeNames';

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
