'use client';
import { count, percent } from '@/core/format';
import { causeLabel } from '@/core/sentences/playback';
import { levelLabel, type RampProbe, type RampResult } from '@/core/timeline/ramp';
import { RampPlot } from '../timeline/RampPlot';
import { timelineView } from './shared/timeline';
import { ColumnHeads } from '../table/ColumnHeads';

export const ramp = timelineView<'ramp'>(
  ({ trial: { summary, record } }) => <RampFigures ramp={summary} probes={record?.probes ?? []} />,
  'Raw record',
);

function RampFigures({ ramp, probes }: { ramp: RampResult; probes: readonly RampProbe[] }) {
  return (
    <>
      <section aria-label="Edge" className="flex flex-col gap-1">
        <h2>Where it starts to drop</h2>
        <RampPlot ramp={ramp} probes={probes} />
      </section>
      <table
        aria-label="Levels played"
        className="w-full max-w-3xl border-collapse border bg-surface text-sm"
      >
        <ColumnHeads names={['Scale', 'Level', 'Slots', 'Dropped', 'Cause']} />
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
