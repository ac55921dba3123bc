import { count, milliseconds, quantity } from '@/core/format';
import type { DecodeStreamsResult } from '@/core/decode/result';
import { StepBar } from '../charts/StepBar';
import { Figure, FigureRow } from '../parts/Figure';
import { framesPerSecond } from './words';
import { greatest } from '@/core/stats/extremes';
import { ColumnHeads } from '../table/ColumnHeads';

/** A ramp of decoded streams: measured beside the arithmetic, then step by step. */
export function DecodeStreamsFigures({
  result: { clean, missed, steps, arithmetic },
}: {
  result: DecodeStreamsResult;
}) {
  const onDevice = steps.some((step) => step.onDevice !== undefined);
  return (
    <section aria-label="Streams decoded" className="flex flex-col gap-3">
      <FigureRow>
        <Figure name="Measured" note={missed === null ? 'none dropped a frame' : `${missed} dropped`}>
          {clean} {clean === 1 ? 'stream' : 'streams'}
        </Figure>
        <Figure
          name="Arithmetic"
          note={
            arithmetic
              ? `${quantity(framesPerSecond(arithmetic.framesPerSecond), 'frames/s')} on all cores over the timeline’s rate; decoding alone`
              : onDevice
                ? 'of software only'
                : 'measure the decode rate first'
          }
        >
          {arithmetic ? arithmetic.streams : '–'}
        </Figure>
      </FigureRow>
      <Steps steps={steps} />
      <p className="text-sm text-muted">
        Each stream is decoded from memory by a decoder of its own and brought to the playback raster; storage
        has no part in it.
      </p>
    </section>
  );
}

/** What each number of streams came to. */
function Steps({ steps }: Pick<DecodeStreamsResult, 'steps'>) {
  const most = greatest(
    steps.map(({ streams }) => streams),
    1,
  );
  return (
    <table aria-label="Numbers of streams tried" className="w-full border bg-surface text-sm">
      <ColumnHeads names={['Streams', '', 'Frames', 'Missed', 'Least time to spare']} />
      <tbody>
        {steps.map((step, index) => (
          <tr key={index} className="border-b last:border-b-0">
            <td className="figure px-3 py-1.5">{step.streams}</td>
            <td className="w-1/3 px-3 py-1.5">
              <StepBar share={step.streams / most} clean={step.clean} />
            </td>
            <td className="figure px-3 py-1.5">{count(step.frames)}</td>
            <td className="figure px-3 py-1.5">
              {step.missed === 0
                ? 'none'
                : `stopped at the first${step.missed > 1 ? `, ${step.missed} at once` : ''}`}
              {step.onDevice !== undefined && step.onDevice < step.frames && (
                <span className="text-muted">
                  ; {count(step.frames - step.onDevice)} frames came from software
                </span>
              )}
              {step.refused ? (
                <span className="text-muted">; {count(step.refused)} could not be decoded</span>
              ) : null}
            </td>
            <td className="figure px-3 py-1.5">
              {step.leastSpareUs < 0
                ? `${milliseconds(-step.leastSpareUs / 1000)} late`
                : milliseconds(step.leastSpareUs / 1000)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
