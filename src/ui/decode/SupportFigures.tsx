import { fixed, milliseconds, percent, times } from '@/core/format';
import { scaleLog, type ScaleLogarithmic } from 'd3';
import { verdictLimits } from '@/core/decode/verdict';
import type { SupportPart, SupportResult } from '@/core/decode/result';
import { Figure, FigureRow } from '../parts/Figure';
import { framesPerSecond, verdictSigns, verdictWords } from './words';
import type { DeviceReport } from '@/core/decode/device';
import { greatest, least } from '@/core/stats/extremes';
import { crossCheckSentence } from '@/core/sentences/decode';
import { ColumnHeads } from '../table/ColumnHeads';

const partWords = { one: 'One pinned core', all: 'All cores' } as const;

/** A decode-support verdict with its evidence: the interval against the limits, the pairs, and what the decoder reports. */
export function SupportFigures({ result, device }: { result: SupportResult; device: DeviceReport | null }) {
  const odd = result.check !== 'agrees';
  return (
    <section aria-label="Decode support" className="flex flex-col gap-4">
      <p
        role={odd ? 'alert' : 'note'}
        className={odd ? 'border-l-4 border-signal bg-surface p-3 text-sm' : 'text-sm text-muted'}
      >
        {crossCheckSentence(result.check)} {percent(result.onDevice, 0)} of the frames lay on the device’s
        surfaces.
      </p>
      <FigureRow>
        {result.parts.map((part) => (
          <Figure
            key={part.cores}
            name={partWords[part.cores]}
            note={`${fixed(part.ratio.low, 2)} to ${fixed(part.ratio.high, 2)}, 99 % interval of ${part.pairs.length} pairs`}
          >
            {verdictSigns[part.verdict]} {verdictWords[part.verdict]}, {times(part.ratio.value)}
          </Figure>
        ))}
        {result.parts.slice(0, 1).map(({ cpuUsPerFrame: { software, device: onDevice } }) => (
          <Figure key="cpu" name="Processor time, a frame" note={`software ${milliseconds(software / 1000)}`}>
            {milliseconds(onDevice / 1000)}
          </Figure>
        ))}
        <Figure
          name="Software decoder"
          note={device ? `against ${device.name}${device.simulated ? ', simulated' : ''}` : undefined}
        >
          {result.decoder}
        </Figure>
      </FigureRow>
      <IntervalChart parts={result.parts} />
      <div className="grid gap-5 lg:grid-cols-2">
        {result.parts.map((part) => (
          <PairTable key={part.cores} part={part} />
        ))}
      </div>
    </section>
  );
}

const box = { width: 760, row: 44, left: 120, right: 20 };
/** Ratios that the axis shows at the most: two pairs make an interval of many powers of ten. */
const widest = { low: 0.1, high: 100 };

/** One ratio: its mean as a diamond, its interval as a bar. */
function Interval({
  name,
  ratio,
  x,
  y,
}: {
  name: string;
  ratio: SupportPart['ratio'];
  x: ScaleLogarithmic<number, number>;
  y: number;
}) {
  return (
    <g>
      <text x={box.left - 12} y={y + 4} textAnchor="end" fontSize="13" fill="var(--ink)">
        {name}
      </text>
      <line x1={x(ratio.low)} x2={x(ratio.high)} y1={y} y2={y} stroke="var(--ink)" strokeWidth={3} />
      {[ratio.low, ratio.high].map((end, side) => (
        <line key={side} x1={x(end)} x2={x(end)} y1={y - 8} y2={y + 8} stroke="var(--ink)" strokeWidth={2} />
      ))}
      <rect
        x={x(ratio.value) - 5}
        y={y - 5}
        width={10}
        height={10}
        transform={`rotate(45 ${x(ratio.value)} ${y})`}
        fill="var(--ink)"
      />
    </g>
  );
}

/** Ratio of device to software with its interval, on a ratio axis with the two limits. */
function IntervalChart({ parts }: { parts: readonly SupportPart[] }) {
  const ratios = parts.flatMap(({ ratio: { low, high } }) => [low, high]).filter((value) => value > 0);
  const x = scaleLog(
    [Math.max(widest.low, least(ratios, 0.5)), Math.min(widest.high, greatest(ratios, 2))],
    [box.left, box.width - box.right],
  )
    .nice()
    .clamp(true);
  const height = parts.length * box.row + 44;
  const inside = ([low, high]: readonly [number, number]) => ({ x: x(low), width: x(high) - x(low) });
  return (
    <figure aria-label="Interval against the limits">
      <svg
        role="img"
        aria-label={`Ratios of device to software: ${parts.map(({ cores, ratio }) => `${partWords[cores]} ${fixed(ratio.value, 2)}, ${fixed(ratio.low, 2)} to ${fixed(ratio.high, 2)}`).join('; ')}`}
        viewBox={`0 0 ${box.width} ${height}`}
        className="block w-full border bg-surface"
      >
        <rect
          {...inside([verdictLimits.low, verdictLimits.high])}
          y={22}
          height={parts.length * box.row}
          fill="var(--raised)"
        />
        {[verdictLimits.low, verdictLimits.high].map((limit) => (
          <line
            key={limit}
            x1={x(limit)}
            x2={x(limit)}
            y1={22}
            y2={22 + parts.length * box.row}
            stroke="var(--muted)"
            strokeDasharray="4 3"
          />
        ))}
        <text x={x(verdictLimits.low) - 4} y={16} textAnchor="end" fontSize="12" fill="var(--muted)">
          slower below {verdictLimits.low}
        </text>
        <text x={x(verdictLimits.high) + 4} y={16} fontSize="12" fill="var(--muted)">
          accelerated above {verdictLimits.high}
        </text>
        {parts.map(({ cores, ratio }, index) => (
          <Interval
            key={cores}
            name={partWords[cores]}
            ratio={ratio}
            x={x}
            y={22 + (index + 0.5) * box.row}
          />
        ))}
        {x
          .ticks(6)
          .filter((tick) => [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].includes(tick))
          .map((tick) => (
            <text
              key={tick}
              x={x(tick)}
              y={height - 8}
              textAnchor="middle"
              fontSize="12"
              fill="var(--muted)"
              className="figure"
            >
              {tick}x
            </text>
          ))}
      </svg>
      <figcaption className="mt-1 text-xs text-muted">
        Diamond: mean of the pairs’ ratios. Bar: 99 % interval, cut off at the chart’s ends. The verdict is
        that of one pinned core, where only a device that does the work can help.
      </figcaption>
    </figure>
  );
}

function PairTable({ part: { cores, pairs } }: { part: SupportPart }) {
  return (
    <table
      aria-label={`Pairs, ${partWords[cores].toLowerCase()}`}
      className="w-full border bg-surface text-sm"
    >
      <ColumnHeads names={[partWords[cores], 'Software /s', 'Device /s', 'Ratio']} figuresFrom={1} />
      <tbody>
        {pairs.map(({ software, device }, index) => (
          <tr key={index} className="border-b last:border-b-0">
            <td className="px-3 py-1">pair {index + 1}</td>
            <td className="figure px-3 py-1 text-right">{framesPerSecond(software)}</td>
            <td className="figure px-3 py-1 text-right">{framesPerSecond(device)}</td>
            <td className="figure px-3 py-1 text-right">{times(device / software)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
