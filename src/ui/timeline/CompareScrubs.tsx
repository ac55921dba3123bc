'use client';
import { count, fixed, milliseconds, times } from '@/core/format';
import Link from 'next/link';
import { useMemo } from 'react';
import type { TimelineTrial } from '@/db/kinds';
import { Empty } from '../parts/Empty';
import { LagPlot } from './LagPlot';
import { LatencyPlot, SeriesMark } from './LatencyPlot';
import { subjectWords, testWords } from './testWords';
import { least } from '@/core/stats/extremes';
import { ColumnHeads } from '../table/ColumnHeads';

const finishedScrubs = (tests: readonly TimelineTrial[]) =>
  tests.flatMap((test) =>
    test.kind === 'scrub' && test.summary && test.record
      ? [{ test, summary: test.summary, requests: test.record.requests }]
      : [],
  );

function differenceWords(differences: readonly string[]): string {
  if (differences.length === 0) return 'They were made under the same settings';
  return differences.length === 1
    ? `They differ in their ${differences[0]}`
    : `They differ in ${differences.length} things: ${differences.join(', ')}`;
}

/** Scrub trials on one plot: originals and proxies, volumes, scales. What differs besides is named. */
export function CompareScrubs({ tests }: { tests: readonly TimelineTrial[] }) {
  const scrubs = useMemo(() => finishedScrubs(tests), [tests]);
  const series = useMemo(
    () =>
      scrubs.map(({ test, requests }) => ({
        key: test.id,
        name: `${testWords(test)}; ${subjectWords(test)}`,
        requests,
      })),
    [scrubs],
  );
  if (scrubs.length === 0)
    return (
      <Empty
        title="No scrub trial to lay over another"
        action={
          <Link prefetch={false} className="underline" href="/timelines/tests">
            Choose some
          </Link>
        }
      >
        Choose at least two finished scrub trials in the table.
      </Empty>
    );
  const differences = differencesOf(scrubs.map(({ test }) => test));
  return (
    <div className="flex flex-col gap-5">
      <Link
        prefetch={false}
        href="/timelines/tests"
        className="text-sm text-muted underline decoration-edge underline-offset-4"
      >
        Scrub and load
      </Link>
      <h1>{differenceWords(differences)}</h1>
      {differences.length > 1 && (
        <p className="border-l-4 border-signal pl-3 text-sm">
          With more than one difference no single cause can be read off.
        </p>
      )}
      <LatencyPlot series={series} label="Latency of all trials against the distance from the key frame" />
      <SideBySide scrubs={scrubs} />
      {scrubs.map(({ test, requests }, index) => (
        <section key={test.id} aria-label={`Lag of trial ${index + 1}`}>
          <h2 className="text-sm">
            <SeriesMark index={index} /> {testWords(test)}{' '}
            <span className="font-normal text-muted">{subjectWords(test)}</span>
          </h2>
          <LagPlot requests={requests} label={`Playhead and picture of trial ${index + 1}`} />
        </section>
      ))}
    </div>
  );
}

function SideBySide({ scrubs }: { scrubs: ReturnType<typeof finishedScrubs> }) {
  const fastest = least(scrubs.map(({ summary }) => summary.latencyMs?.p50 ?? Infinity));
  return (
    <table aria-label="Figures side by side" className="w-full border-collapse border bg-surface text-sm">
      <ColumnHeads
        names={['Trial', 'Latency p50', 'p95', 'Most', 'Against the fastest', 'Shown', 'Behind, mean']}
      />
      <tbody>
        {scrubs.map(({ test, summary: { latencyMs, shown, requests, lagSlots } }, index) => (
          <tr key={test.id} className="border-b last:border-b-0">
            <td className="px-3 py-1.5">
              <SeriesMark index={index} />{' '}
              <Link
                prefetch={false}
                href={`/timelines/tests/${test.id}`}
                className="underline decoration-edge underline-offset-4"
              >
                {testWords(test)}
              </Link>{' '}
              <span className="text-muted">{subjectWords(test)}</span>
            </td>
            <td className="figure px-3 py-1.5">{milliseconds(latencyMs?.p50)}</td>
            <td className="figure px-3 py-1.5">{milliseconds(latencyMs?.p95)}</td>
            <td className="figure px-3 py-1.5">{milliseconds(latencyMs?.max)}</td>
            <td className="figure px-3 py-1.5">
              {latencyMs ? `${times(latencyMs.p50 / fastest)} the time` : '–'}
            </td>
            <td className="figure px-3 py-1.5">
              {count(shown)} of {count(requests)}
            </td>
            <td className="figure px-3 py-1.5">{fixed(lagSlots.mean, 1)} slots</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** In which conditions trials differ, in words. */
export function differencesOf(tests: readonly Pick<TimelineTrial, 'settings' | 'subject'>[]): string[] {
  const facts: readonly (readonly [
    string,
    (test: Pick<TimelineTrial, 'settings' | 'subject'>) => unknown,
  ])[] = [
    ['gesture', ({ settings }) => (settings.kind === 'scrub' ? settings.gesture : null)],
    ['playback scale', ({ settings }) => (settings.kind === 'scrub' ? settings.scale : null)],
    ['media', ({ subject }) => Object.values(subject.timeline.media).map(({ contentHash }) => contentHash)],
    ['volume', ({ subject }) => Object.values(subject.timeline.media).map(({ volumeId }) => volumeId)],
    ['cache', ({ settings }) => settings.warm],
    ['threads', ({ settings }) => settings.threads],
  ];
  return facts
    .filter(([, of]) => new Set(tests.map((test) => JSON.stringify(of(test)))).size > 1)
    .map(([name]) => name);
}
