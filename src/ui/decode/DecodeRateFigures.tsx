import { memory, milliseconds } from '@/core/format';
import { max, scaleLinear } from 'd3';
import type { CoresFigures, RateResult } from '@/core/decode/result';
import { toNumber } from '@/core/time/rational';
import type { DecodeSubject } from '@/core/kinds/shared/decode';
import { Figure, FigureRow } from '../parts/Figure';
import { framesPerSecond } from './words';
import { ColumnHeads } from '../table/ColumnHeads';

/** A decode rate: what it gives, what a frame of each type costs, and what a jump costs. */
export function DecodeRateFigures({
  result,
  subject: { format },
}: {
  result: RateResult;
  subject: DecodeSubject;
}) {
  const { one, all, seekLine, seeks } = result;
  const streams = all ? Math.floor(all.framesPerSecond.median / toNumber(format.rate)) : null;
  return (
    <section aria-label="Decode rate" className="flex flex-col gap-4">
      <FigureRow>
        <Figure name="All cores, frames/s" note={coresNote(all)}>
          {framesPerSecond(all?.framesPerSecond.median)}
        </Figure>
        <Figure name="One core, frames/s" note={coresNote(one)}>
          {framesPerSecond(one?.framesPerSecond.median)}
        </Figure>
        <Figure name="Streams by arithmetic" note="decode rate over the clip’s own rate">
          {streams ?? '–'}
        </Figure>
        <Figure name="First frame" note="from opening the decoder">
          {milliseconds(result.firstFrameMs)}
        </Figure>
        <Figure
          name="Processor time, a frame"
          note={one ? `${milliseconds(one.cpuUsPerFrame / 1000)} on one core` : undefined}
        >
          {milliseconds(all ? all.cpuUsPerFrame / 1000 : null)}
        </Figure>
        <Figure name="Memory" note="of decoder and frames, all cores">
          {result.memoryBytes === null ? '–' : memory(result.memoryBytes)}
        </Figure>
      </FigureRow>
      <p className="text-sm text-muted">
        Decoder {result.decoder}. One core spends {milliseconds(result.msPerMegapixel)} on a megapixel and{' '}
        {milliseconds(result.msPerMegabit)} on a megabit.
      </p>
      <div className="grid gap-5 lg:grid-cols-2">
        <TypeCosts result={result} />
        {seeks.length > 0 && <SeekChart seeks={seeks} line={seekLine} />}
      </div>
    </section>
  );
}

function coresNote(figures: CoresFigures | null): string | undefined {
  if (!figures) return undefined;
  const { low, high } = figures.framesPerSecond;
  return `${framesPerSecond(low)} to ${framesPerSecond(high)} in ${figures.passes} passes, ${figures.threads} ${figures.threads === 1 ? 'thread' : `threads ${figures.threadKind}`}`;
}

function TypeCosts({ result: { byType } }: { result: RateResult }) {
  const most = max(byType, ({ p95Ms }) => p95Ms) ?? 1;
  return (
    <figure aria-label="Cost by frame type">
      <table aria-label="Cost of a frame by type" className="w-full border bg-surface text-sm">
        <ColumnHeads names={['Type', 'One core, a frame', 'Median', 'p95', 'Frames']} figuresFrom={2} />
        <tbody>
          {byType.map(({ type, frames, p50Ms, p95Ms }) => (
            <tr key={type} className="border-b last:border-b-0">
              <th scope="row" className="px-3 py-1.5 text-left font-semibold">
                {type}
              </th>
              <td className="w-1/2 px-3 py-1.5">
                <svg aria-hidden width="100%" height="14" preserveAspectRatio="none">
                  <rect
                    y="1"
                    width={`${(100 * p50Ms) / most}%`}
                    height="12"
                    fill={`var(--frame-${type === '?' ? 'b' : type.toLowerCase()})`}
                  />
                  <line
                    x1={`${(100 * p50Ms) / most}%`}
                    x2={`${(100 * p95Ms) / most}%`}
                    y1="7"
                    y2="7"
                    stroke="var(--muted)"
                    strokeWidth="1.5"
                  />
                </svg>
              </td>
              <td className="figure px-3 py-1.5 text-right">{milliseconds(p50Ms)}</td>
              <td className="figure px-3 py-1.5 text-right">{milliseconds(p95Ms)}</td>
              <td className="figure px-3 py-1.5 text-right">{frames}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <figcaption className="mt-1 text-xs text-muted">
        Time of the packet’s own call on one pinned core; the line reaches to p95.
      </figcaption>
    </figure>
  );
}

const box = { width: 460, height: 200, left: 52, bottom: 34, top: 12, right: 12 };

/** Cost of a jump against the distance from the key frame. */
function SeekChart({ seeks, line }: { seeks: RateResult['seeks']; line: RateResult['seekLine'] }) {
  const x = scaleLinear(
    [0, Math.max(1, max(seeks, ({ distance }) => distance) ?? 1)],
    [box.left, box.width - box.right],
  );
  const y = scaleLinear(
    [0, (max(seeks, ({ us }) => us) ?? 1) / 1000],
    [box.height - box.bottom, box.top],
  ).nice();
  const [, furthest = 1] = x.domain();
  return (
    <figure aria-label="Cost of a jump">
      <svg
        role="img"
        aria-label={`${seeks.length} jumps by distance from the key frame`}
        viewBox={`0 0 ${box.width} ${box.height}`}
        className="block w-full border bg-surface"
      >
        {y.ticks(4).map((tick) => (
          <g key={tick}>
            <line x1={box.left} x2={box.width - box.right} y1={y(tick)} y2={y(tick)} stroke="var(--line)" />
            <text
              x={box.left - 6}
              y={y(tick) + 4}
              textAnchor="end"
              fontSize="11"
              fill="var(--muted)"
              className="figure"
            >
              {tick}
            </text>
          </g>
        ))}
        {x
          .ticks(6)
          .filter(Number.isInteger)
          .map((tick) => (
            <text
              key={tick}
              x={x(tick)}
              y={box.height - 18}
              textAnchor="middle"
              fontSize="11"
              fill="var(--muted)"
              className="figure"
            >
              {tick}
            </text>
          ))}
        <text x={box.width - box.right} y={box.height - 4} textAnchor="end" fontSize="11" fill="var(--muted)">
          frames from the key frame
        </text>
        <text x={4} y={box.height - 4} fontSize="11" fill="var(--muted)">
          ms
        </text>
        {line && (
          <line
            x1={x(0)}
            x2={x(furthest)}
            y1={y(Math.max(0, line.baseMs))}
            y2={y(Math.max(0, line.baseMs + line.perFrameMs * furthest))}
            stroke="var(--muted)"
            strokeDasharray="4 3"
          />
        )}
        {seeks.map(({ distance, us }, index) => (
          <circle key={index} cx={x(distance)} cy={y(us / 1000)} r={4} fill="var(--ink)" />
        ))}
      </svg>
      <figcaption className="mt-1 text-xs text-muted">
        {line
          ? `A jump costs about ${milliseconds(Math.max(0, line.baseMs))} and ${milliseconds(line.perFrameMs)} more for every frame from the key frame, on all cores.`
          : 'Every frame is a key frame: a jump costs the same everywhere. On all cores.'}
      </figcaption>
    </figure>
  );
}
