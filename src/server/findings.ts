import { LRUCache } from 'lru-cache';
import { doubtOf, type Doubt } from '@/core/rig/doubt';
import type { Repeat } from '@/core/compare/compare';
import { valuesOf, type Finding } from '@/core/compare/metrics';
import { decodeSentence } from '@/core/decode/sentence';
import type { Grade } from '@/core/playback/grade';
import { answerSentence } from '@/core/playback/sentence';
import { scrubSentence } from '@/core/scrub/analyse';
import { streamsSentence } from '@/core/storage/streams';
import { toNumber } from '@/core/time/rational';
import {
  getAnnotations,
  getFindings,
  presentResults,
  type AnnotationRow,
  type FindingRow,
  type ResultKind,
  type ResultRef,
} from '@/db/queries/results';

const pages: Record<ResultKind, string> = {
  trial: '/trials',
  storage: '/storage/trials',
  decode: '/media/decode',
  timelineTest: '/timelines/tests',
};

/** The page of a result. */
export function resultHref({ kind, id }: ResultRef): string {
  return `${pages[kind]}/${id}`;
}

/** What a trial found, where it came to its end; null for other kinds and ends. */
export function findingOf(row: FindingRow): Finding | null {
  if (row.status !== 'done') return null;
  switch (row.kind) {
    case 'trial':
      return (
        row.summary && {
          kind: 'playback',
          summary: row.summary,
          rate: toNumber(row.rate),
          startLatencyMs: row.startLatencyMs,
        }
      );
    case 'storage':
      return row.result?.kind === 'throughput'
        ? { kind: 'throughput', summary: row.result.summary }
        : row.result?.kind === 'streams'
          ? { kind: 'streams', summary: row.result.summary }
          : null;
    case 'decode':
      return row.result && { kind: 'decode', result: row.result, rate: toNumber(row.subject.format.rate) };
    case 'timelineTest':
      return row.result?.kind === 'scrub' ? { kind: 'scrub', summary: row.result.summary } : null;
  }
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

function headlineText(row: FindingRow, finding: Finding | null): string {
  if (!finding) return row.outcome ?? row.status;
  switch (finding.kind) {
    case 'playback':
      return row.kind === 'trial' && row.summary ? answerSentence(row.summary, finding.rate) : '';
    case 'scrub':
      return scrubSentence(finding.summary);
    case 'streams':
      return streamsSentence(finding.summary);
    case 'throughput':
      return [
        finding.summary.read && `reads ${(finding.summary.read.sustained / 1e6).toFixed(1)} MB/s`,
        finding.summary.write && `writes ${(finding.summary.write.sustained / 1e6).toFixed(1)} MB/s`,
      ]
        .filter(Boolean)
        .join(', ');
    case 'decode':
      return row.kind === 'decode'
        ? decodeSentence(finding.result, row.subject.format.rate, row.subject.device?.name ?? null)
        : '';
  }
}

/** A headline without what people note beside a result: once a trial has ended it stays as it is. */
type Found = Omit<Headline, 'excluded'>;

function foundIn(row: FindingRow): Found {
  const finding = findingOf(row);
  return {
    href: resultHref(row),
    grade: finding?.kind === 'playback' ? finding.summary.grade : null,
    text: headlineText(row, finding),
    values: finding ? valuesOf(finding) : {},
    doubt: doubtOf(row.load),
  };
}

/** Of ended trials, by id. The page of a running matrix asks for all its runs whenever one ends. */
const kept = new LRUCache<string, Found>({ max: 20_000 });

/** Results in a line each, by id; those that are gone are left out. */
export async function headlines(refs: readonly ResultRef[]): Promise<ReadonlyMap<string, Headline>> {
  const [present, rows, notes] = await Promise.all([
    presentResults(refs),
    getFindings(refs.filter(({ id }) => !kept.has(id))),
    getAnnotations(refs.map(({ id }) => id)),
  ]);
  const fresh = new Map(rows.map((row) => [row.id, foundIn(row)]));
  for (const { id, endedAt } of rows) if (endedAt !== null) kept.set(id, fresh.get(id));
  return new Map(
    refs.flatMap(({ id }): [string, Headline][] => {
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
