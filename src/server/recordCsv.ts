import { csvFormat } from 'd3';
import type { TrialKind } from '@/core/kinds/kinds';
import type { TrialRow } from '@/db/kinds';
import { listRenditionItems } from '@/db/queries/renditions';
import { listCopyFiles } from '@/db/queries/storageRecords';
import { blocksCsv } from './storage';
import { traceCsv } from './traceCsv';
import { requireTrial } from './trialControls';

type Line = Readonly<Record<string, unknown>>;

/** Lines as CSV (RFC 4180). Columns are those of all lines, in the order in which they first come; lists are joined by spaces, what is not told is empty. */
function linesCsv(lines: readonly Line[]): string {
  const columns = [...new Set(lines.flatMap((line) => Object.keys(line)))];
  const plain = (value: unknown) =>
    Array.isArray(value)
      ? value.join(' ')
      : typeof value === 'object' && value !== null
        ? JSON.stringify(value)
        : value;
  const rows = lines.map((line) =>
    Object.fromEntries(Object.entries(line).map(([name, value]) => [name, plain(value)])),
  );
  return `${csvFormat(rows, columns)}\n`;
}

const passes = ({ record }: TrialRow<'decode-rate' | 'decode-support'>) =>
  linesCsv((record?.passes ?? []).map((pass) => ({ ...pass })));

/** What each kind records, as CSV. */
const records: { readonly [Kind in TrialKind]: (trial: TrialRow<Kind>) => string | Promise<string> } = {
  playback: ({ id }) => traceCsv(id),
  'self-check': ({ id }) => traceCsv(id),
  scrub: ({ record }) => linesCsv((record?.requests ?? []).map((request) => ({ ...request }))),
  ramp: ({ record }) => linesCsv((record?.probes ?? []).map((probe) => ({ ...probe }))),
  calibration: ({ record }) =>
    linesCsv((record?.costs?.scales ?? []).map(({ effects, ...scale }) => ({ ...scale, ...effects }))),
  'decode-rate': passes,
  'decode-support': passes,
  'decode-streams': ({ record }) => linesCsv((record?.steps ?? []).map((step) => ({ ...step }))),
  throughput: ({ id }) => blocksCsv(id),
  'streams-carried': ({ id }) => blocksCsv(id),
  copy: async ({ id }) => linesCsv((await listCopyFiles(id)).map((file) => ({ ...file }))),
  renditions: async ({ id }) =>
    linesCsv(
      (await listRenditionItems(id)).map(({ work, frameCheck, sourceFormat: _format, ...item }) => ({
        ...item,
        ...(work ? { frames: work.frames, wallUs: work.wallUs, bytes: work.bytes } : {}),
        frameCheck,
      })),
    ),
};

/** What a trial recorded, as CSV. @throws RequestError where there is no such trial */
export async function recordCsv(id: string): Promise<{ csv: string; kind: TrialKind }> {
  const trial = await requireTrial(id);
  return {
    csv: await (records[trial.kind] as (trial: TrialRow) => string | Promise<string>)(trial),
    kind: trial.kind,
  };
}
