import { count, milliseconds, quantity } from '@/core/format';
import type { DecodeStreamsResult } from '@/core/decode/result';
import { Figure, FigureRow } from '../parts/Figure';
import { framesPerSecond } from './words';
import { greatest } from '@/core/stats/extremes';

/** A ramp of decoded streams: measured beside the arithmetic, then step by step. */
export function DecodeStreamsFigures({
  result: { clean, missed, steps, arithmetic },
}: {
  result: DecodeStreamsResult;
}) {
  const onDevice = steps.some((step) => step.onDevice !== undefined);
  const most = greatest(
    steps.map(({ streams }) => streams),
    1,
  );
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
      <table aria-label="Numbers of streams tried" className="w-full border bg-surface text-sm">
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            {['Streams', '', 'Frames', 'Missed', 'Least time to spare'].map((name, index) => (
              <th key={index} scope="col" className="px-3 py-1.5 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {steps.map((step, index) => (
            <tr key={index} className="border-b last:border-b-0">
              <td className="figure px-3 py-1.5">{step.streams}</td>
              <td className="w-1/3 px-3 py-1.5">
                <svg aria-hidden width="100%" height="12" preserveAspectRatio="none">
                  <rect
                    width={`${(100 * step.streams) / most}%`}
                    height="12"
                    fill={step.clean ? 'var(--slot)' : 'none'}
                    stroke={step.clean ? 'var(--slot)' : 'var(--signal-text)'}
                    strokeDasharray={step.clean ? undefined : '3 2'}
                  />
                </svg>
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
      <p className="text-sm text-muted">
        Each stream is decoded from memory by a decoder of its own and brought to the playback raster; storage
        has no part in it.
      </p>
    </section>
  );
}
