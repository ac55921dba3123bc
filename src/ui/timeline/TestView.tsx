'use client';
import Link from 'next/link';
import type { TimelineKind } from '@/core/kinds/kinds';
import { causeLabel } from '@/core/playback/sentence';
import { volumesOf } from '@/core/playback/subject';
import type { ScrubRequest, ScrubSummary } from '@/core/scrub/analyse';
import { effectName } from '@/core/timeline/parts';
import { levelLabel, type RampProbe, type RampResult } from '@/core/timeline/ramp';
import type { EffectCosts } from '@/core/timeline/effectCosts';
import type { EffectKind } from '@/core/timeline/model';
import type { TimelineTrial } from '@/db/kinds';
import type { TrialPage } from '@/server/trialPage';
import { count, dateTime, memory, milliseconds, percent } from '../format';
import { FaultsNote } from '../parts/FaultsNote';
import { Facts, Figure, FigureRow } from '../parts/Figure';
import { Simulated } from '../parts/Simulated';
import { useProgress } from '../shell/status';
import { LiveFrame } from '../trial/LiveFrame';
import { ResultFrame, TrialLine } from '../trial/ResultFrame';
import { TrialActions } from '../trial/TrialActions';
import { useTrialPage } from '../trial/useTrialPage';
import { coldWords } from '../trial/words';
import { LagPlot } from './LagPlot';
import { LatencyPlot } from './LatencyPlot';
import { RampPlot } from './RampPlot';
import { testWords } from './testWords';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';

/** A scrub trial, load ramp or calibration on its page: while it waits or runs, and its result. */
export function TestView({ initial }: { initial: TrialPage<TimelineKind> }) {
  const { page, isLive } = useTrialPage(initial);
  const { trial, plan } = page;
  const { timeline } = trial.subject;
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <TrialLine plan={plan} actions={!isLive && <Actions page={page} />}>
        <span className="inline-block text-base font-semibold text-ink first-letter:uppercase">
          {testWords(trial)}
        </span>
        <Link
          prefetch={false}
          href={`/timelines/${timeline.id}`}
          className="underline decoration-edge underline-offset-4"
        >
          {timeline.name}
        </Link>
        <span>
          {timeline.width}x{timeline.height}, {timeline.read}, from{' '}
          {volumesOf(trial.subject).names.join(', ')} {volumesOf(trial.subject).simulated && <Simulated />}
        </span>
      </TrialLine>
      {isLive ? <Live trial={trial} /> : <Result page={page} />}
    </div>
  );
}

function Live({ trial }: { trial: TimelineTrial }) {
  const progress = useProgress<TimelineTrialProgress>(trial.id);
  return (
    <LiveFrame
      trial={trial}
      now={progress?.note ?? 'Opening the media'}
      share={progress?.share ?? 0}
      msLeft={progress?.msLeft ?? null}
    />
  );
}

function Result({ page }: { page: TrialPage<TimelineKind> }) {
  const { trial } = page;
  const { status, record } = trial;
  return (
    <ResultFrame page={page} answer={status === 'done' && trial.outcome}>
      {trial.kind === 'scrub' && trial.summary && record && (
        <ScrubFigures summary={trial.summary} requests={record.requests} />
      )}
      {trial.kind === 'ramp' && trial.summary && record && (
        <RampFigures ramp={trial.summary} probes={record.probes} />
      )}
      {trial.kind === 'calibration' && trial.summary && (
        <CostsTable
          costs={trial.summary}
          rate={trial.subject.timeline.rate.num / trial.subject.timeline.rate.den}
        />
      )}
      <FaultsNote faults={record?.faults} />
      <Conditions test={trial} />
    </ResultFrame>
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
  test: TimelineTrial;
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
          ...(settings.kind === 'scrub'
            ? [
                [
                  'Requests',
                  'the newest wins; what is overtaken is given up at the next stage boundary',
                ] as const,
              ]
            : []),
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

/** The same trial again, as it is asked for. */
function againOf({ kind, settings, subject: { timeline } }: TimelineTrial) {
  const base = { ...settings, kind, timelineId: timeline.id, read: timeline.read };
  if (settings.kind !== 'scrub') return base;
  const { gesture } = settings;
  return gesture.kind === 'recorded'
    ? { ...base, gestures: ['recorded'], gestureId: gesture.gestureId }
    : { ...base, gestures: [gesture.kind], seed: gesture.seed, speed: gesture.speed };
}

function Actions({ page }: { page: TrialPage<TimelineKind> }) {
  const { trial } = page;
  return (
    <TrialActions
      page={page}
      noun="result"
      again={againOf(trial)}
      record={trial.kind === 'scrub' ? 'Raw requests' : 'Raw record'}
      goes={`${testWords(trial)} on ${trial.subject.timeline.name} goes with all that was measured. This cannot be undone.`}
      home="/timelines/tests"
    />
  );
}
