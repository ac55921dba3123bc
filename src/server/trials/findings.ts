import { LRUCache } from 'lru-cache';
import type { Repeat } from '@/core/compare/compare';
import { answerOf, type Finding, trialHref, valuesOf } from '@/core/kinds/kinds';
import type { Grade } from '@/core/playback/grade';
import { doubtOf, type Doubt } from '@/core/rig/doubt';
import type { TrialListRow } from '@/db/kinds';
import {
  getAnnotations,
  getFindings,
  presentResults,
  type AnnotationRow,
  type FindingRow,
} from '@/db/queries/results';

/** What a trial found, from its own row. Its summary must be there. */
export function plainFinding(row: TrialListRow): Finding {
  const { subject, settings, conditions } = row;
  const media =
    'timeline' in subject && subject.timeline
      ? subject.timeline
      : 'format' in subject
        ? subject.format
        : 'clip' in subject
          ? (subject.clip?.format ?? null)
          : null;
  return {
    kind: row.kind,
    summary: row.summary,
    rate: media?.rate ?? null,
    startLatencyMs: conditions && 'run' in conditions ? (conditions.run?.startLatencyMs ?? null) : null,
    processorShare: row.load?.trialMean ?? null,
    deviceName: 'device' in subject ? (subject.device?.name ?? null) : null,
    framePacedStreams: 'test' in settings && settings.test === 'frame-paced' ? settings.streams : null,
    verified: 'verify' in settings && settings.verify,
  } as Finding;
}

/** What a trial found, where it came to its end; null for other ends. */
function findingOf(row: FindingRow): Finding | null {
  return row.status === 'done' && row.summary ? (row as Finding) : null;
}

/** A result in a line: its grade where it has one, and its answer. */
export interface Headline {
  readonly href: string;
  readonly grade: Grade | null;
  readonly text: string;
  readonly values: Readonly<Record<string, number>>;
  readonly excluded: string | null;
  readonly doubt: Doubt | null;
}

/** A headline without what people note beside a result: once a trial has ended it stays as it is. */
type Found = Omit<Headline, 'excluded'>;

function foundIn(row: FindingRow): Found {
  const finding = findingOf(row);
  return {
    href: trialHref(row),
    grade: finding && 'grade' in finding.summary ? finding.summary.grade : null,
    text: finding ? answerOf(finding) : (row.outcome ?? row.status),
    values: finding ? valuesOf(finding) : {},
    doubt: doubtOf(row.load),
  };
}

/** Of ended trials, by id. The page of a running matrix asks for all its runs whenever one ends. */
const kept = new LRUCache<string, Found>({ max: 20_000 });

/** Results in a line each, by id; those that are gone are left out. */
export async function headlines(ids: readonly string[]): Promise<ReadonlyMap<string, Headline>> {
  const [present, rows, notes] = await Promise.all([
    presentResults(ids),
    getFindings(ids.filter((id) => !kept.has(id))),
    getAnnotations(ids),
  ]);
  const fresh = new Map(rows.map((row) => [row.id, foundIn(row)]));
  for (const { id, endedAt } of rows) if (endedAt !== null) kept.set(id, fresh.get(id));
  return new Map(
    ids.flatMap((id): [string, Headline][] => {
      const found = fresh.get(id) ?? kept.get(id);
      return found && present.has(id) ? [[id, { ...found, excluded: notes.get(id)?.excluded ?? null }]] : [];
    }),
  );
}

/** A result as one repeat of a comparison. */
export function repeatOf(row: FindingRow, annotation: AnnotationRow | undefined): Repeat {
  const { href, values, doubt } = foundIn(row);
  return {
    trialId: row.id,
    href,
    at: (row.startedAt ?? row.createdAt).toISOString(),
    values,
    excluded: annotation?.excluded ?? (row.status === 'done' ? null : `it ended as ${row.status}`),
    doubt,
  };
}
