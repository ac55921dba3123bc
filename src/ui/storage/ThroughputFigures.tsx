'use client';
import { count, megabytesPerSecond, milliseconds, percent, quantity, size } from '@/core/format';
import Link from 'next/link';
import { useEffect, useMemo, useState } from 'react';
import { heldBackByHost, type CombinedFigures, type ThroughputSummary } from '@/core/storage/throughput';
import { greatest, least } from '@/core/stats/extremes';
import type { Staircase } from '@/core/storage/underWay';
import type { TrialRow } from '@/db/kinds';
import { callApi } from '../api';
import { RateChart, type RateCurve } from '../charts/RateChart';
import { Figure, FigureRow } from '../parts/Figure';
import { figuresOf } from './measured';
import { ColumnHeads } from '../table/ColumnHeads';

/** Rates of a trial as curves; null while they load, and empty when they cannot be had. */
export function useCurves(trialId: string): readonly RateCurve[] | null {
  const [curves, setCurves] = useState<readonly RateCurve[] | null>(null);
  useEffect(() => {
    let gone = false;
    callApi('GET /api/trials/{id}/rates', { ids: { id: trialId } }).then(
      ({ windowMs, series }) => {
        if (!gone)
          setCurves(
            series.map(({ repeat, write, beganMs, rates }) => ({
              key: `${repeat}-${String(write)}`,
              write,
              beganSeconds: beganMs / 1000,
              points: rates.map((rate, index) => [((index + 0.5) * windowMs) / 1000, rate] as const),
            })),
          );
      },
      () => {
        if (!gone) setCurves([]);
      },
    );
    return () => {
      gone = true;
    };
  }, [trialId]);
  return curves;
}

export function ThroughputFigures({
  trial,
  summary,
}: {
  trial: TrialRow<'throughput'>;
  summary: ThroughputSummary;
}) {
  const { settings } = trial;
  const curves = useCurves(trial.id);
  const disturbed =
    trial.conditions?.disturbedMs.map(([from, to]) => [from / 1000, to / 1000] as const) ?? [];
  const main = figuresOf(trial, settings.test);
  const sides = useMemo(
    () =>
      (
        [
          ['Read', summary.read],
          ['Write', summary.write],
        ] as const
      ).filter((side): side is readonly ['Read' | 'Write', CombinedFigures] => side[1] !== null),
    [summary],
  );
  const heldBack = sides.some(([, figures]) => heldBackByHost(figures));
  return (
    <section aria-label="Throughput" className="flex flex-col gap-3">
      {heldBack && (
        <p role="note" className="border-l-4 border-signal pl-3 text-sm">
          This machine’s own drive was slower than the model: these figures are the machine’s, and the
          simulated volume would be faster.
        </p>
      )}
      {summary.staircase && <StaircaseTable staircase={summary.staircase} />}
      {curves === null ? (
        <div aria-busy className="h-[242px] border bg-surface" />
      ) : (
        <RateChart
          curves={curves}
          sustained={main?.sustained ?? null}
          burstEnd={main?.burst?.seconds ?? null}
          disturbed={disturbed}
          label={`Throughput of ${summary.repeats.length} ${summary.staircase ? 'steps' : 'repeats'} over time`}
        />
      )}
      <p className="text-xs text-muted">
        Windows of 250 ms. Full line: read. Dashed: write. The last {summary.staircase ? 'step' : 'repeat'} is
        bright, earlier ones are grey.
        {disturbed.length > 0 && ' Marks on the axis: other load disturbed the last repeat there.'}
      </p>
      {sides.map(([name, figures]) => (
        <SideFigures key={name} name={name} figures={figures} framePaced={settings.test === 'frame-paced'} />
      ))}
      {summary.repeats.length > 1 && !summary.staircase && (
        <p className="text-sm text-muted">
          Sustained, repeat by repeat:{' '}
          {summary.repeats.map((repeat, index) => (
            <span key={index} className="figure mr-4 text-ink">
              {megabytesPerSecond(
                (settings.test === 'sequential-write' ? repeat.write : repeat.read)?.sustained,
              )}
            </span>
          ))}
        </p>
      )}
      {settings.test === 'sequential-read' && (
        <p className="text-sm">
          <Link
            prefetch={false}
            href="/storage/ladder"
            className="underline decoration-edge underline-offset-4"
          >
            See on the ladder which formats this carries
          </Link>
        </p>
      )}
    </section>
  );
}

function SideFigures({
  name,
  figures,
  framePaced,
}: {
  name: string;
  figures: CombinedFigures;
  framePaced: boolean;
}) {
  const { latencyMs, burst } = figures;
  return (
    <FigureRow>
      <Figure
        name={`${name}, sustained`}
        note={figures.spread === null ? 'one repeat' : `repeats within ${percent(figures.spread, 0)}`}
      >
        {megabytesPerSecond(figures.sustained)}
      </Figure>
      <Figure name="Median of windows">{megabytesPerSecond(figures.median)}</Figure>
      <Figure name="p5 to p95" note={megabytesPerSecond(figures.p95)}>
        {megabytesPerSecond(figures.p5)}
      </Figure>
      <Figure
        name="Burst"
        note={burst ? `${size(burst.bytes)} at ${megabytesPerSecond(burst.median)}` : undefined}
      >
        {burst ? quantity(burst.seconds, 's', 1) : 'none'}
      </Figure>
      {framePaced && (
        <Figure name="Missed frames" note={`of ${count(figures.blocks)} read`}>
          {count(figures.missed)}
        </Figure>
      )}
      <Figure name="Response p50" note={`p95 ${milliseconds(latencyMs.p95)}`}>
        {milliseconds(latencyMs.p50)}
      </Figure>
      <Figure name="Response p99" note={`max ${milliseconds(latencyMs.max)}`}>
        {milliseconds(latencyMs.p99)}
      </Figure>
      <Figure name="Moved" note={`${count(figures.blocks)} requests`}>
        {size(figures.bytes)}
      </Figure>
    </FigureRow>
  );
}

/** Shorter steps hang on chance. */
const leastStepSeconds = 0.5;

/** Rate and answer times by the requests that were under way. */
function StaircaseTable({ staircase: { steps, needed } }: { staircase: Staircase }) {
  const most = greatest(
    steps.map(({ figures }) => figures.sustained),
    1,
  );
  const shortest = least(steps.map(({ figures }) => figures.seconds));
  return (
    <>
      <table aria-label="Rate by requests under way" className="w-full border bg-surface text-sm">
        <ColumnHeads
          names={['Requests under way', '', 'Sustained', 'p5 to p95', 'Response p50', 'Response p99']}
        />
        <tbody>
          {steps.map(({ underWay, figures }) => (
            <tr key={underWay} className="border-b last:border-b-0">
              <td className="figure px-3 py-1.5">
                {underWay}
                {underWay === needed && <strong className="ml-2 font-semibold">enough</strong>}
              </td>
              <td className="w-1/3 px-3 py-1.5">
                <svg aria-hidden width="100%" height="12" preserveAspectRatio="none">
                  <rect
                    width={`${(100 * figures.sustained) / most}%`}
                    height="12"
                    fill={underWay === needed ? 'var(--ink)' : 'var(--slot)'}
                  />
                </svg>
              </td>
              <td className="figure px-3 py-1.5">{megabytesPerSecond(figures.sustained)}</td>
              <td className="figure px-3 py-1.5 text-muted">
                {megabytesPerSecond(figures.p5)} to {megabytesPerSecond(figures.p95)}
              </td>
              <td className="figure px-3 py-1.5">{milliseconds(figures.latencyMs.p50)}</td>
              <td className="figure px-3 py-1.5">{milliseconds(figures.latencyMs.p99)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {shortest < leastStepSeconds && (
        <p role="note" className="border-l-4 border-signal pl-3 text-sm">
          The shortest step took {quantity(shortest, 's', 2)}: move more for a surer answer.
        </p>
      )}
    </>
  );
}
