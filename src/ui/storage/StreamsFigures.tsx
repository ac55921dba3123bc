import { count, megabitsPerSecond, megabytesPerSecond, milliseconds } from '@/core/format';
import type { StreamsSummary } from '@/core/storage/streams';
import type { TrialRow } from '@/db/kinds';
import { StepBar } from '../charts/StepBar';
import { Figure, FigureRow } from '../parts/Figure';
import { greatest } from '@/core/stats/extremes';
import { ColumnHeads } from '../table/ColumnHeads';

/** A ramp of streams: measured beside the arithmetic, then step by step. */
export function StreamsFigures({
  trial,
  summary,
}: {
  trial: TrialRow<'streams-carried'>;
  summary: StreamsSummary;
}) {
  const { arithmetic, limit } = summary;
  const { clip } = trial.subject;
  return (
    <section aria-label="Streams carried" className="flex flex-col gap-3">
      <FigureRow>
        <Figure
          name="Measured"
          note={
            summary.missed === null ? 'none missed a slot' : `${summary.missed} missed slots or fell behind`
          }
        >
          {summary.clean} {summary.clean === 1 ? 'stream' : 'streams'}
        </Figure>
        <Figure name="Measured, limited by" note="at the first number that missed">
          {limit}
        </Figure>
        <Figure
          name="Arithmetic"
          note={
            arithmetic
              ? `${megabytesPerSecond(arithmetic.bytesPerSecond)} ${arithmetic.from === 'measured' ? 'measured' : 'by the model'}, over the clip’s peak`
              : 'measure sequential reading first'
          }
        >
          {arithmetic ? arithmetic.streams : '–'}
        </Figure>
        {arithmetic?.limit && (
          <Figure name="Arithmetic, limited by" note="by the model">
            {arithmetic.limit}
          </Figure>
        )}
        {clip && (
          <Figure name="One stream" note={`mean ${megabitsPerSecond(clip.meanBitsPerSecond)}`}>
            {megabitsPerSecond(clip.peakBitsPerSecond)}
          </Figure>
        )}
      </FigureRow>
      <Steps steps={summary.steps} />
    </section>
  );
}

/** What each number of streams came to. */
function Steps({ steps }: Pick<StreamsSummary, 'steps'>) {
  const most = greatest(
    steps.map(({ streams }) => streams),
    1,
  );
  return (
    <table aria-label="Numbers of streams tried" className="w-full border bg-surface text-sm">
      <ColumnHeads names={['Streams', '', 'Frames', 'Missed', 'Together', 'Response p99']} />
      <tbody>
        {steps.map((step, index) => (
          <tr key={index} className="border-b last:border-b-0">
            <td className="figure px-3 py-1.5">{step.streams}</td>
            <td className="w-1/3 px-3 py-1.5">
              <StepBar share={step.streams / most} clean={step.clean} />
            </td>
            <td className="figure px-3 py-1.5">{count(step.frames)}</td>
            <td className="figure px-3 py-1.5">
              {step.missed === 0 ? (step.behind ? 'none yet, falls behind' : 'none') : count(step.missed)}
            </td>
            <td className="figure px-3 py-1.5">{megabytesPerSecond(step.bytesPerSecond)}</td>
            <td className="figure px-3 py-1.5">{milliseconds(step.latencyP99Ms)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
