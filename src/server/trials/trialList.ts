import { object, string, type InferType } from 'yup';
import type { Cell } from '@/core/formats/csv';
import { kindNames, metrics, type TrialKind, trialKinds } from '@/core/kinds/kinds';
import { grades, type Grade } from '@/core/playback/grade';
import { trialStatuses, type Origin, type TrialStatus } from '@/db/kinds';
import type { TrialFilter } from '@/db/queries/trialFilter';
import { listTrialLines } from '@/db/queries/trialList';
import { countTrials } from '@/db/queries/trials';
import { listRigNames, type RigName } from '@/db/queries/rigs';
import { listVolumeNames, type VolumeName } from '@/db/queries/volumes';
import { headlines, type Headline } from './findings';
import { checked } from '../platform/http';
import { csvInPieces } from '../platform/listCsv';
import { id, moment, mostPages, mostSize, oneOf, usualSize, whole } from '../platform/listWords';
import { currentRigId } from '../platform/rig';

/** A list is asked for as it stands in an address; several of one are set apart by commas. */
export type ListQuery = Readonly<
  Partial<
    Record<
      | 'kind'
      | 'status'
      | 'subject'
      | 'volume'
      | 'rig'
      | 'clip'
      | 'timeline'
      | 'grade'
      | 'doubt'
      | 'since'
      | 'until'
      | 'page'
      | 'size',
      string
    >
  >
>;

/** What a list may be asked for, by the words in an address. */
export const listInput = object({
  kind: oneOf(trialKinds, 'kind').meta({ about: 'Kinds of trials.' }),
  status: oneOf(trialStatuses, 'status').meta({ about: 'Where trials stand, or how they ended.' }),
  subject: string()
    .max(200, 'Look for at most 200 characters.')
    .meta({ about: 'Part of the name of what was tried, in any case of letters.' }),
  volume: id().meta({ about: 'Id of a volume that was read or written.' }),
  rig: id().meta({ about: 'Id of the rig.' }),
  clip: id().meta({ about: 'Id of the clip that was tried.' }),
  timeline: id().meta({ about: 'Id of the timeline that was tried.' }),
  grade: oneOf(grades, 'grade').meta({ about: 'Grades of playback.' }),
  doubt: string()
    .oneOf(['yes', 'no'], 'Say “yes” for results in doubt, or “no” for the others.')
    .meta({ about: 'Whether others disturbed the run, or the machine was not steady.' }),
  since: moment('since').meta({ about: 'Queued at this time or later.' }),
  until: moment('until').meta({ about: 'Queued before this time.' }),
  page: whole('page', mostPages)
    .default(1)
    .meta({ about: 'Which page, counted from 1; the last one stands for those beyond.' }),
  size: whole('size', mostSize).default(usualSize).meta({ about: 'Most trials on a page.' }),
});

function filterOf(asked: InferType<typeof listInput>): TrialFilter {
  const { kind, status, grade, subject, volume, rig, clip, timeline, doubt, since, until } = asked;
  return {
    ...(kind && { kinds: kind }),
    ...(status && { statuses: status }),
    ...(grade && { grades: grade }),
    ...(subject && { subject }),
    ...(volume && { volumeId: volume }),
    ...(rig && { rigId: rig }),
    ...(clip && { clipIds: [clip] }),
    ...(timeline && { timelineId: timeline }),
    ...(doubt && { inDoubt: doubt === 'yes' }),
    ...(since && { since }),
    ...(until && { until }),
  };
}

/** A trial as lists show it, whatever its kind. */
export interface TrialLine {
  readonly id: string;
  readonly kind: TrialKind;
  /** What was tried: a clip, a timeline, a volume or a folder, by name. */
  readonly name: string;
  /** How, in a few words; empty where the kind says it all. */
  readonly how: string;
  /** Volumes that were read or written, by name. */
  readonly volumes: readonly string[];
  /** Measured with a stand-in, or computed by a model. */
  readonly simulated: boolean;
  readonly origin: Origin;
  readonly rig: { readonly id: string; readonly name: string };
  readonly status: TrialStatus;
  /** When it was queued, ISO 8601. */
  readonly createdAt: string;
  /** Where its page is, on the same server. */
  readonly href: string;
  /** Null where the kind has none, or the trial did not come to its end. */
  readonly grade: Grade | null;
  /** What it found, or why it ended, in a sentence; null before its end. */
  readonly answer: string | null;
  /** Its figures by the id of the metric; units as the metrics say. */
  readonly values: Readonly<Record<string, number>>;
  /** Why a person left it out; null where nobody did. */
  readonly excluded: string | null;
  readonly doubt: Headline['doubt'];
}

/** A page of a list, newest first. */
export interface TrialListPage {
  /** Trials on all pages. */
  readonly total: number;
  /** Counted from 1. */
  readonly page: number;
  /** Most trials on a page. */
  readonly size: number;
  readonly trials: readonly TrialLine[];
}

async function linesOf(
  filter: TrialFilter,
  rigs: readonly RigName[],
  most: number,
  skip: number,
): Promise<TrialLine[]> {
  const names = new Map(rigs.map((rig) => [rig.id, rig.name]));
  const rows = await listTrialLines(filter, most, skip);
  const found = await headlines(rows.map((row) => row.id));
  return rows.flatMap(({ rigId, volumeNames, createdAt, ...row }) => {
    const headline = found.get(row.id);
    // Removed between the two questions.
    if (!headline) return [];
    const { text, grade, values, excluded, doubt, href } = headline;
    return {
      ...row,
      volumes: volumeNames,
      rig: { id: rigId, name: names.get(rigId) ?? 'unknown rig' },
      createdAt: createdAt.toISOString(),
      href,
      grade,
      answer: text === row.status ? null : text,
      values,
      excluded,
      doubt,
    };
  });
}

/** A page of trials of all kinds, newest first. @throws RequestError with the word at fault */
export async function readTrialList(query: ListQuery): Promise<TrialListPage> {
  return pageOf(checked(query, listInput), await listRigNames());
}

async function pageOf(asked: InferType<typeof listInput>, rigs: readonly RigName[]): Promise<TrialListPage> {
  const filter = filterOf(asked);
  const { size } = asked;
  const total = await countTrials(filter);
  // What was the last page may be gone by now.
  const page = Math.min(asked.page, Math.max(1, Math.ceil(total / size)));
  return { total, page, size, trials: await linesOf(filter, rigs, size, (page - 1) * size) };
}

/** What a list can be narrowed to. */
export interface ListChoices {
  readonly volumes: readonly VolumeName[];
  readonly rigs: readonly RigName[];
}

/** A list as a page begins with it: what it is always narrowed to, its first rows, and what else it can be narrowed to. */
export interface ListPart {
  readonly fixed: ListQuery;
  readonly asked: ListQuery;
  readonly first: TrialListPage;
  readonly choices: ListChoices;
}

/** @param asked what it is narrowed to at first besides, as it stood in the page's address; words that mean nothing are left out */
export async function readListPart(fixed: ListQuery, asked: ListQuery = {}): Promise<ListPart> {
  const known = (await listInput.isValid(asked)) ? asked : {};
  const query = checked({ ...known, ...fixed }, listInput);
  const [volumes, rigs] = await Promise.all([listVolumeNames(), listRigNames()]);
  return { fixed, asked: known, first: await pageOf(query, rigs), choices: { volumes, rigs } };
}

/** A list of this rig's own trials of some kinds. */
export async function readOwnList(kinds: readonly TrialKind[]): Promise<ListPart> {
  return readListPart({ rig: await currentRigId(), kind: kinds.join(',') });
}

const head = [
  'id',
  'kind',
  'subject',
  'how',
  'volumes',
  'simulated',
  'rig',
  'origin',
  'status',
  'queued',
  'grade',
  'in doubt',
  'left out',
  'answer',
  ...metrics.map(({ name, unit }) => `${name} (${unit})`),
];

const cellsOf = (line: TrialLine): Cell[] => [
  line.id,
  kindNames[line.kind],
  line.name,
  line.how,
  line.volumes.join('; '),
  line.simulated ? 'simulated' : '',
  line.rig.name,
  line.origin,
  line.status,
  line.createdAt,
  line.grade,
  line.doubt?.reason,
  line.excluded,
  line.answer,
  ...metrics.map((metric) => line.values[metric.id]),
];

const inPieces = 1_000;

/** All trials that a list is narrowed to as CSV (RFC 4180), piece by piece. @throws RequestError with the word at fault */
export async function trialListCsv(query: ListQuery): Promise<AsyncGenerator<string>> {
  const asked = checked(query, listInput);
  // Those that come meanwhile would push others from one piece to the next.
  const filter = { until: new Date(), ...filterOf(asked) };
  const rigs = await listRigNames();
  return csvInPieces(head, inPieces, async (skip) =>
    (await linesOf(filter, rigs, inPieces, skip)).map((line) => [cellsOf(line)]),
  );
}
