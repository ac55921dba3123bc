import { count, fixed, milliseconds, percent, quantity, upTo } from '@/core/format';
import { causeBit, causesOf, chargesByDrops } from '@/core/playback/attribute';
import { carriedBy } from '@/core/playback/headroom';
import { chargeLabel } from '@/core/sentences/playback';
import type { SoundSummary } from '@/core/playback/sound';
import type { PlaybackSummary } from '@/core/playback/summary';
import { toNumber } from '@/core/time/rational';
import { rateOf, slotTimecode } from '@/core/timeline/subject';
import type { PlayedTrial } from '@/db/kinds';
import { causeStyles } from '../charts/causes';
import { CauseSwatch } from '../charts/Legend';
import { Figure, FigureRow } from '../parts/Figure';

/** Time of a stage in which others had the cores that it was ready for, where it is more than a moment. */
function othersHad(lostMs: number | undefined): string | undefined {
  return lostMs !== undefined && lostMs >= 1
    ? `others had its cores for ${milliseconds(lostMs)} in all`
    : undefined;
}

/** The numbers of a result, each with what it means. */
export function ResultFigures({ trial, summary }: { trial: PlayedTrial; summary: PlaybackSummary }) {
  const rate = toNumber(rateOf(trial.subject));
  const slotMs = 1000 / rate;
  const { pacingMs, serviceMs } = summary;
  const run = trial.conditions?.run;
  const carried = carriedBy(summary, rate);
  return (
    <section aria-label="Figures" className="flex flex-col gap-4">
      <FigureRow>
        <Figure
          name="Shown"
          note={summary.late > 0 ? `${count(summary.late)} of them late` : `of ${count(summary.slots)} slots`}
        >
          {count(summary.shown)}
        </Figure>
        <Figure name="Dropped" note={`${fixed(summary.dropsPerMinute, 1)} per minute`}>
          {count(summary.dropped)}{' '}
          <span className="text-sm text-muted">{percent(summary.dropped / Math.max(1, summary.slots))}</span>
        </Figure>
        <Figure
          name="First drop"
          note={summary.firstDropSlot === null ? undefined : `slot ${count(summary.firstDropSlot)}`}
        >
          {summary.firstDropSlot === null ? 'none' : slotTimecode(trial.subject)(summary.firstDropSlot)}
        </Figure>
        <Figure
          name="Longest gap"
          note={summary.longestGapSlots > 0 ? milliseconds(summary.longestGapSlots * slotMs) : undefined}
        >
          {summary.longestGapSlots === 0
            ? 'none'
            : `${count(summary.longestGapSlots)} ${summary.longestGapSlots === 1 ? 'slot' : 'slots'}`}
        </Figure>
        <Figure name="Achieved" note={`of ${upTo(rate, 3)} per second`}>
          {quantity(summary.achievedRate, '/s', 1)}
        </Figure>
        <Figure name="Start latency" note="command to first slot">
          {milliseconds(run?.startLatencyMs)}
        </Figure>
      </FigureRow>
      <FigureRow>
        <Figure
          name="Headroom"
          note={
            carried
              ? `${carried.stage}, the slowest, carries ${quantity(carried.slotsPerSecond, '/s', 1)}`
              : 'not kept for this run'
          }
        >
          {percent(carried?.headroom, 0)}
        </Figure>
        <Figure name="Processor used" note="of all cores, by this run">
          {percent(trial.load?.trialMean, 0)}
        </Figure>
        <Figure name="Read, median" note={`slot is ${milliseconds(slotMs)}`}>
          {milliseconds(serviceMs.read)}
        </Figure>
        <Figure name="Decode, median" note={othersHad(summary.lostMs?.decode)}>
          {milliseconds(serviceMs.decode)}
        </Figure>
        <Figure name="Process, median" note={othersHad(summary.lostMs?.process)}>
          {milliseconds(serviceMs.process)}
        </Figure>
        {summary.sound && <SoundFigure sound={summary.sound} />}
        <Figure
          name="Pacing error p50"
          note={`p95 ${milliseconds(pacingMs?.p95)}, p99 ${milliseconds(pacingMs?.p99)}; presented against due`}
        >
          {milliseconds(pacingMs?.p50)}
        </Figure>
      </FigureRow>
      {summary.attribution && summary.dropped > 0 && <CauseTable summary={summary} />}
    </section>
  );
}

/** Whether sound was ready in time, and what a slot of it took. */
function SoundFigure({ sound }: { sound: SoundSummary }) {
  const { underRuns, readMs, decodeMs, mixMs } = sound;
  return (
    <Figure
      name="Sound under-runs"
      note={`a slot takes ${milliseconds(readMs + decodeMs + mixMs)}: read ${milliseconds(readMs)}, decode ${milliseconds(decodeMs)}, mix ${milliseconds(mixMs)}`}
    >
      {underRuns === 0 ? 'none' : count(underRuns)}
    </Figure>
  );
}

/** Drops by cause, with how the charge was found and how far it can be believed. */
function CauseTable({ summary }: { summary: PlaybackSummary }) {
  const { attribution } = summary;
  if (!attribution) return null;
  return (
    <div>
      <h2>Why slots dropped</h2>
      <table
        aria-label="Drops by cause"
        className="mt-2 w-full max-w-3xl border-collapse border bg-surface text-sm"
      >
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            <th scope="col" className="px-3 py-1.5 font-normal">
              Cause
            </th>
            <th scope="col" className="px-3 py-1.5 text-right font-normal">
              Drops
            </th>
            <th scope="col" className="px-3 py-1.5 font-normal">
              Found by replaying the run
            </th>
          </tr>
        </thead>
        <tbody>
          {chargesByDrops(attribution.countByCharge).map(({ charge, drops }) => (
            <tr key={charge} className="border-b last:border-b-0">
              <td className="whitespace-nowrap px-3 py-1.5">
                {causesOf(charge).map((stage) => (
                  <span key={stage} className="mr-2">
                    <CauseSwatch stage={stage} /> {causeStyles[stage].word}
                  </span>
                ))}
              </td>
              <td className="figure px-3 py-1.5 text-right">{count(drops)}</td>
              <td className="px-3 py-1.5 text-muted">
                {charge === causeBit.media
                  ? 'the decoder made no picture of them: no faster stage would have shown them'
                  : charge === causeBit.present
                    ? 'stay dropped with reading, decoding and processing free'
                    : `vanish when ${chargeLabel(charge)} ${causesOf(charge).length > 1 ? 'take' : 'takes'} no time; ${count(attribution.droppedWhenFree[charge] ?? 0)} of all drops are left then`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 max-w-3xl text-xs text-muted">
        The measured times of every stage were played again through the simulator. It agrees with the run for{' '}
        {percent(attribution.agreement)} of slots with the recorded choices, and for{' '}
        {percent(attribution.policyAgreement)} when it chooses itself which frames to give up.
      </p>
    </div>
  );
}
