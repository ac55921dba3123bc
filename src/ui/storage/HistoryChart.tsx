'use client';
import { dateTime, megabytesPerSecond, times } from '@/core/format';
import { extent, max, scaleLinear, scaleTime, select } from 'd3';
import { useEffect, useMemo, useRef } from 'react';
import { doubtOf } from '@/core/rig/doubt';
import { slowing } from '@/core/storage/history';
import type { StorageKind } from '@/core/kinds/kinds';
import { drawValueAxis } from '../charts/axes';
import { useWidth } from '../charts/useWidth';
import { figuresOf } from './measured';
import { testWords } from './words';
import type { TrialListRow } from '../pages';

const height = 150;
const margin = { top: 14, right: 16, bottom: 26, left: 56 };
const tests = ['sequential-read', 'sequential-write'] as const;
type Test = (typeof tests)[number];

interface Mark {
  readonly id: string;
  readonly test: Test;
  readonly at: Date;
  readonly sustained: number;
  readonly p5: number;
  readonly p95: number;
  readonly inDoubt: boolean;
}

function marksOf(trials: readonly TrialListRow<StorageKind>[]): Mark[] {
  return trials
    .flatMap((trial) => {
      if (trial.kind !== 'throughput') return [];
      const { settings, status, load } = trial;
      const test = tests.find((candidate) => candidate === settings.test);
      const figures = test && status === 'done' ? figuresOf(trial, test) : null;
      return test && figures
        ? [
            {
              id: trial.id,
              test,
              at: new Date(trial.createdAt),
              sustained: figures.sustained,
              p5: figures.p5,
              p95: figures.p95,
              inDoubt: doubtOf(load) !== null,
            },
          ]
        : [];
    })
    .sort((a, b) => a.at.getTime() - b.at.getTime());
}

/** Sustained rates over time: reading as discs, writing as squares, with p5 to p95; those in doubt hollow. */
export function HistoryChart({ trials }: { trials: readonly TrialListRow<StorageKind>[] }) {
  const { ref, width } = useWidth();
  const axis = useRef<SVGGElement>(null);
  const marks = useMemo(() => marksOf(trials), [trials]);
  const y = useMemo(
    () =>
      scaleLinear(
        [0, ((max(marks, ({ p95 }) => p95) ?? 1e6) / 1e6) * 1.05],
        [height - margin.bottom, margin.top],
      ).nice(),
    [marks],
  );
  useEffect(() => {
    if (!axis.current || width === 0) return;
    const group = select(axis.current);
    group.selectAll('*').remove();
    drawValueAxis(group, y, width - margin.right - margin.left, 4);
  }, [y, width]);
  if (marks.length === 0) return null;
  const [first, last] = extent(marks, ({ at }) => at) as [Date, Date];
  const x = scaleTime(
    first < last ? [first, last] : [new Date(first.getTime() - 1), new Date(first.getTime() + 1)],
    [margin.left + 14, Math.max(margin.left + 15, width - margin.right - 14)],
  );
  return (
    <figure aria-label="History">
      {tests.map((test) => (
        <Verdict key={test} test={test} marks={marks} />
      ))}
      <div ref={ref} className="mt-2 border bg-surface">
        {width > 0 && (
          <svg
            role="group"
            aria-label={`Sustained rates over time, ${marks.length} ${marks.length === 1 ? 'measurement' : 'measurements'}`}
            width={width}
            height={height}
            className="block"
          >
            <g ref={axis} transform={`translate(${margin.left},0)`} />
            <text x={6} y={height - 6} fontSize="12" fill="var(--muted)">
              MB/s
            </text>
            <text x={margin.left + 8} y={height - 6} fontSize="12" fill="var(--muted)">
              {dateTime(first)}
            </text>
            <text x={width - margin.right} y={height - 6} textAnchor="end" fontSize="12" fill="var(--muted)">
              {dateTime(last)}
            </text>
            {marks.map((mark) => (
              <HistoryMark key={mark.id} mark={mark} x={x(mark.at)} y={(rate) => y(rate / 1e6)} />
            ))}
          </svg>
        )}
      </div>
      <figcaption className="mt-1 text-xs text-muted">
        Disc: read. Square: write. Hollow: in doubt. The line spans p5 to p95 of 250 ms windows.
      </figcaption>
    </figure>
  );
}

function HistoryMark({
  mark: { id, test, at, sustained, p5, p95, inDoubt },
  x,
  y,
}: {
  mark: Mark;
  x: number;
  y: (rate: number) => number;
}) {
  const look = { fill: inDoubt ? 'var(--surface)' : 'var(--ink)', stroke: 'var(--ink)', strokeWidth: 1.5 };
  return (
    <a
      href={`/storage/trials/${id}`}
      aria-label={`${testWords[test]} of ${dateTime(at)}: ${megabytesPerSecond(sustained)} sustained`}
    >
      <line x1={x} x2={x} y1={y(p5)} y2={y(p95)} stroke="var(--slot)" strokeWidth={2} />
      {test === 'sequential-read' ? (
        <circle cx={x} cy={y(sustained)} r={5} {...look} />
      ) : (
        <rect x={x - 4.5} y={y(sustained) - 4.5} width={9} height={9} {...look} />
      )}
    </a>
  );
}

/** Whether the newest measurement that is not in doubt is slower than those before it. */
function Verdict({ test, marks }: { test: Test; marks: readonly Mark[] }) {
  const verdict = slowing(marks.filter((mark) => mark.test === test && !mark.inDoubt));
  if (!verdict) return null;
  const text = `${testWords[test]}: the newest is ${times(verdict.ratio)} as fast as the median before it`;
  return verdict.slower ? (
    <p role="note" className="border-l-4 border-signal pl-3 text-sm">
      {text}. It has slowed; check drive, link and free space.
    </p>
  ) : (
    <p className="text-sm text-muted">{text}.</p>
  );
}
