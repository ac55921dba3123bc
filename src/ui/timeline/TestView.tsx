'use client';
import { Download, Square, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { causeLabel } from '@/core/playback/sentence';
import { volumesOf } from '@/core/playback/subject';
import type { ScrubRequest, ScrubSummary } from '@/core/scrub/analyse';
import { effectName } from '@/core/timeline/parts';
import { levelLabel, type RampProbe, type RampResult } from '@/core/timeline/ramp';
import type { EffectCosts } from '@/core/timeline/effectCosts';
import type { EffectKind } from '@/core/timeline/model';
import type { TimelineTestRow } from '@/db/queries/timelines';
import { callApi } from '../api';
import { clockTime, count, dateTime, memory, milliseconds, percent } from '../format';
import { Button } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { DoubtNote } from '../parts/DoubtNote';
import { FaultsNote } from '../parts/FaultsNote';
import { FormError } from '../parts/Field';
import { Facts, Figure, FigureRow } from '../parts/Figure';
import { Progress } from '../parts/Progress';
import { Simulated } from '../parts/Simulated';
import { useCancel } from '../shell/useCancel';
import { useStatus } from '../shell/status';
import { useFollowedTrial } from '../shell/useFollowedTrial';
import { useLive } from '../shell/useLive';
import { saveFile } from '../table/export';
import { EndNote } from '../trial/EndNote';
import { coldWords } from '../trial/words';
import { LagPlot } from './LagPlot';
import { LatencyPlot } from './LatencyPlot';
import { RampPlot } from './RampPlot';
import { RepeatSeries } from '../plans/RepeatSeries';
import { RigDuring } from '../trial/RigDuring';
import { testWords } from './testWords';

/** A scrub trial, load ramp or calibration on its page: while it waits or runs, and its result. */
export function TestView({ initial }: { initial: TimelineTestRow }) {
  const { id } = initial;
  const [test, reload] = useLive(
    initial,
    `/api/timeline-tests/${id}`,
    (event) => event.type === 'test-status' && event.trialId === id,
  );
  useFollowedTrial(id, test.status, reload);
  const isLive = test.status === 'queued' || test.status === 'running';
  const { timeline } = test.subject;
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <div className="flex items-start gap-4">
        <div className="flex min-w-0 flex-wrap items-baseline gap-x-4 gap-y-1 text-sm text-muted">
          <span className="text-base font-semibold text-ink">{testWords(test)}</span>
          <Link
            prefetch={false}
            href={`/timelines/${timeline.id}`}
            className="underline decoration-edge underline-offset-4"
          >
            {timeline.name}
          </Link>
          <span>
            {timeline.width}x{timeline.height}, {timeline.read}, from{' '}
            {volumesOf(test.subject).names.join(', ')} {volumesOf(test.subject).simulated && <Simulated />}
          </span>
        </div>
        {!isLive && <Actions test={test} />}
      </div>
      {isLive ? (
        <Live test={test} />
      ) : (
        <>
          <Result test={test} />
          <RigDuring trialId={test.id} load={test.load} />
        </>
      )}
    </div>
  );
}

function Live({ test }: { test: TimelineTestRow }) {
  const { testProgress } = useStatus();
  const progress = testProgress?.trialId === test.id ? testProgress.progress : null;
  const { cancel, asked, busy, error } = useCancel(`/api/timeline-tests/${test.id}/cancel`, 'Cancel this');
  return (
    <div className="flex flex-col gap-4">
      <div className="flex items-center gap-2">
        <h1 aria-live="polite" className="mr-auto">
          {test.status === 'queued' ? 'Waiting for its turn' : (progress?.note ?? 'Opening the media')}
        </h1>
        <Button onClick={cancel} disabled={busy || asked}>
          <Square aria-hidden className="size-4" />
          {asked ? 'Cancelling' : 'Cancel'}
        </Button>
      </div>
      <FormError message={error?.message} />
      <Progress value={progress?.share ?? 0} most={1} label="Progress" />
      <p className="text-sm text-muted">
        {progress?.msLeft != null && (
          <>
            about <span className="figure">{clockTime(progress.msLeft)}</span> left.{' '}
          </>
        )}
        You may leave this page; it goes on.
      </p>
    </div>
  );
}

function Result({ test }: { test: TimelineTestRow }) {
  const { result, status, record, load } = test;
  return (
    <>
      {status !== 'done' && <EndNote of={test} />}
      {status === 'done' && <h1 data-testid="answer">{test.outcome}</h1>}
      <DoubtNote load={load} />
      {result?.kind === 'scrub' && record && (
        <ScrubFigures summary={result.summary} requests={record.requests} />
      )}
      {result?.kind === 'ramp' && record && <RampFigures ramp={result.ramp} probes={record.probes} />}
      {result?.kind === 'costs' && (
        <CostsTable
          costs={result.costs}
          rate={test.subject.timeline.rate.num / test.subject.timeline.rate.den}
        />
      )}
      <FaultsNote faults={record?.faults} />
      <Conditions test={test} />
    </>
  );
}

function ScrubFigures({ summary, requests }: { summary: ScrubSummary; requests: readonly ScrubRequest[] }) {
  const { latencyMs, partsMs } = summary;
  return (
    <>
      <section aria-label="Lag" className="flex flex-col gap-1">
        <h2>Playhead and picture</h2>
        <LagPlot requests={requests} label="Position of the playhead and of the picture over the gesture" />
      </section>
      <section aria-label="Latency" className="flex flex-col gap-1">
        <h2>Latency by distance from the key frame</h2>
        <LatencyPlot
          series={[{ key: 'one', name: '', requests }]}
          label="Latency of each shown picture against its distance from the key frame"
        />
      </section>
      <FigureRow>
        <Figure name="Latency p50" note="request to picture">
          {milliseconds(latencyMs?.p50)}
        </Figure>
        <Figure name="p95">{milliseconds(latencyMs?.p95)}</Figure>
        <Figure name="Most">{milliseconds(latencyMs?.max)}</Figure>
        <Figure name="Shown" note={`of ${count(summary.requests)} positions`}>
          {count(summary.shown)}
        </Figure>
        <Figure name="Overtaken" note="by a newer position">
          {count(summary.superseded)}
        </Figure>
        {(summary.refused ?? 0) > 0 && (
          <Figure name="Not decoded" note="the decoder made no picture">
            {count(summary.refused ?? 0)}
          </Figure>
        )}
        <Figure name="Behind, mean" note={`most ${count(summary.lagSlots.most)} slots`}>
          {summary.lagSlots.mean.toFixed(1)} slots
        </Figure>
      </FigureRow>
      <FigureRow>
        <Figure name="Waiting, median" note="for the one before">
          {milliseconds(partsMs?.waiting)}
        </Figure>
        <Figure name="Read, median">{milliseconds(partsMs?.read)}</Figure>
        <Figure name="Decode, median">{milliseconds(partsMs?.decode)}</Figure>
        <Figure name="Process, median">{milliseconds(partsMs?.process)}</Figure>
        <Figure
          name="Wrong frames"
          note={summary.proved ? 'proved by the frame code' : 'not provable: no frame code in the picture'}
        >
          {summary.proved ? count(summary.wrong) : '–'}
        </Figure>
      </FigureRow>
    </>
  );
}

function RampFigures({ ramp, probes }: { ramp: RampResult; probes: readonly RampProbe[] }) {
  return (
    <>
      <section aria-label="Edge" className="flex flex-col gap-1">
        <h2>Where it begins to drop</h2>
        <RampPlot ramp={ramp} probes={probes} />
      </section>
      <table
        aria-label="Levels played"
        className="w-full max-w-3xl border-collapse border bg-surface text-sm"
      >
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            {['Scale', 'Level', 'Slots', 'Dropped', 'Cause'].map((name) => (
              <th key={name} scope="col" className="px-3 py-1.5 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {probes.map(({ scale, level, slots, dropped, charge }) => (
            <tr key={`${scale}-${level}`} className="border-b last:border-b-0">
              <td className="px-3 py-1.5">{scale}</td>
              <td className="px-3 py-1.5">{levelLabel(ramp.family, level)}</td>
              <td className="figure px-3 py-1.5">{count(slots)}</td>
              <td className="figure px-3 py-1.5">
                {count(dropped)} <span className="text-muted">{percent(dropped / Math.max(1, slots))}</span>
              </td>
              <td className="px-3 py-1.5 text-muted">
                {charge > 0 ? causeLabel(charge) : 'nothing was late'}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function CostsTable({ costs, rate }: { costs: EffectCosts; rate: number }) {
  const kinds = [...new Set(costs.scales.flatMap(({ effects }) => Object.keys(effects) as EffectKind[]))];
  const rows: (readonly [string, (scale: EffectCosts['scales'][number]) => number | undefined])[] = [
    ['one layer, no effect', ({ baseUs }) => baseUs],
    ['a second layer over it', ({ layerUs }) => layerUs],
    ...kinds.map(
      (kind) =>
        [effectName({ kind }), ({ effects }: EffectCosts['scales'][number]) => effects[kind]] as const,
    ),
  ];
  return (
    <section aria-label="Costs">
      <table
        aria-label="Cost per slot"
        className="w-full max-w-3xl border-collapse border bg-surface text-sm"
      >
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            <th scope="col" className="px-3 py-1.5 font-normal">
              Per slot, at {costs.width}x{costs.height}
            </th>
            {costs.scales.map(({ scale }) => (
              <th key={scale} scope="col" className="px-3 py-1.5 text-right font-normal">
                {scale} scale
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, of]) => (
            <tr key={name} className="border-b last:border-b-0">
              <td className="px-3 py-1.5">{name}</td>
              {costs.scales.map((scale) => {
                const us = of(scale);
                return (
                  <td key={scale.scale} className="figure px-3 py-1.5 text-right">
                    {us === undefined ? '–' : `${us < 0 ? '−' : ''}${milliseconds(Math.abs(us) / 1000)}`}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 max-w-3xl text-xs text-muted">
        Median of seven runs on one decoded frame. Effects count as what they add to one layer; a transform
        makes the picture smaller and may save time. A slot lasts {milliseconds(1000 / rate)} here.
      </p>
    </section>
  );
}

function Conditions({
  test: { conditions, record, settings, subject, load, startedAt, endedAt },
}: {
  test: TimelineTestRow;
}) {
  if (!conditions) return null;
  return (
    <section aria-label="Conditions">
      <h2 className="mb-2">Conditions</h2>
      <Facts
        rows={[
          [
            'Rig',
            `${conditions.rig.processor}, ${conditions.rig.logicalCores} cores, ${memory(conditions.rig.memoryBytes)}`,
          ],
          ['Reads', record?.cold ? coldWords(record.cold) : '–'],
          [
            'Read',
            Object.values(subject.timeline.media)
              .map(
                ({ path, role, volumeName, standIn }) =>
                  `${path} (${role}) from ${volumeName}${standIn ? ', simulated' : ''}`,
              )
              .join('; '),
          ],
          ...(settings.kind === 'scrub' && settings.gesture.kind !== 'recorded'
            ? [['Gesture', `${settings.gesture.kind}, seed ${settings.gesture.seed}`] as const]
            : []),
          ['Requests', 'the newest wins; what is overtaken is given up at the next stage boundary'],
          [
            'Load by others',
            load
              ? `${percent(load.othersMean, 0)} mean, ${percent(load.othersPeak, 0)} peak`
              : 'not measured',
          ],
          [
            'Made',
            `${startedAt ? dateTime(startedAt) : '–'} to ${endedAt ? dateTime(endedAt) : '–'}, Navvy ${conditions.softwareVersion}`,
          ],
        ]}
      />
    </section>
  );
}

const csvColumns = [
  'atMs',
  'target',
  'end',
  'stoppedAfter',
  'shownMs',
  'readMs',
  'decodeMs',
  'processMs',
  'bytes',
  'packets',
  'fromKey',
  'wanted',
  'proved',
] as const;

function Actions({ test }: { test: TimelineTestRow }) {
  const router = useRouter();
  const requests = test.record?.requests ?? [];
  return (
    <div data-no-print className="ml-auto flex shrink-0 gap-1">
      <RepeatSeries kind="timelineTest" trialId={test.id} />
      {requests.length > 0 && (
        <Button
          look="quiet"
          onClick={() =>
            saveFile(
              `navvy-scrub-${test.id}.csv`,
              [
                csvColumns.join(','),
                ...requests.map((request) => csvColumns.map((name) => request[name] ?? '').join(',')),
              ].join('\n'),
            )
          }
        >
          <Download aria-hidden className="size-4" />
          Raw requests
        </Button>
      )}
      <ConfirmButton
        label="Remove this result"
        title="Remove this result?"
        consequence={`${testWords(test)} on ${test.subject.timeline.name} goes with all that was measured. This cannot be undone.`}
        verb="Remove"
        act={async () => {
          await callApi(`/api/timeline-tests/${test.id}`, 'DELETE');
          router.push('/timelines/tests');
        }}
      >
        <Trash2 aria-hidden className="size-4" />
      </ConfirmButton>
    </div>
  );
}
