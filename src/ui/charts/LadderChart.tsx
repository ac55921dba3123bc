'use client';
import { megabytesPerSecond } from '@/core/format';
import { axisLeft, scaleBand, scaleLog, select, type ScaleBand, type ScaleLogarithmic } from 'd3';
import { useEffect, useMemo, useRef, type RefObject } from 'react';
import { ladderDomain, spreadLabels, type Rung } from '@/core/storage/ladder';
import { fitOf, requiredRate, type Fit, type RequiredRate, type Usage } from '@/core/storage/required';
import { clsx } from 'clsx';
import type { VolumeBand } from '../storage/ladderData';
import { styleFigures } from './axes';
import { useWidth } from './useWidth';

const height = 500;
const margin = { top: 14, right: 12, bottom: 58, left: 300 };
const labelGap = 17;
const axisAt = 52;

interface LadderChartProps {
  readonly rungs: readonly Rung[];
  readonly bands: readonly VolumeBand[];
  readonly usage: Usage;
  readonly rungId: string | null;
  readonly bandId: string | null;
  readonly onSelect: (rungId: string | null, bandId: string | null) => void;
}

/** A rung's line within a volume's column: whole where it plays, dashed inside the margin, dots where it is too slow. */
const strokes: Record<Fit, { readonly dash?: string; readonly opacity: number }> = {
  plays: { opacity: 1 },
  'without margin': { dash: '7 4', opacity: 1 },
  'too slow': { dash: '1 6', opacity: 0.7 },
};

/** What each rung needs, the highest first, and the scales that hold rungs and columns. */
function useScales(
  rungs: LadderChartProps['rungs'],
  bands: LadderChartProps['bands'],
  usage: LadderChartProps['usage'],
  width: number,
) {
  const rates = useMemo(
    () =>
      rungs
        .map((rung) => ({ rung, rate: requiredRate(rung.demand, usage) }))
        .sort((a, b) => b.rate.required - a.rate.required),
    [rungs, usage],
  );
  const y = useMemo(
    () =>
      scaleLog(
        ladderDomain(
          rates.map(({ rate }) => rate),
          bands,
        ).map((rate) => rate / 1e6) as [number, number],
        [height - margin.bottom, margin.top],
      ),
    [rates, bands],
  );
  const x = useMemo(
    () =>
      scaleBand(
        bands.map(({ id }) => id),
        [margin.left, Math.max(margin.left + 1, width - margin.right)],
      )
        .paddingInner(0.12)
        .paddingOuter(0.06),
    [bands, width],
  );
  return { rates, x, y };
}

/** Formats as rungs across volumes as columns, on a logarithmic axis of data rates: what crosses a column below its foot plays from it. */
export function LadderChart({ rungs, bands, usage, rungId, bandId, onSelect }: LadderChartProps) {
  const { ref, width } = useWidth();
  const axis = useRef<SVGGElement>(null);
  const { rates, x, y } = useScales(rungs, bands, usage, width);
  const at = (bytesPerSecond: number) => y(bytesPerSecond / 1e6);
  useRateAxis(axis, y, width);
  const labels = spreadLabels(
    rates.map(({ rate }) => at(rate.required)),
    labelGap,
    margin.top + 4,
    height - margin.bottom,
  );
  return (
    <div ref={ref} className="border bg-surface">
      {width > 0 && (
        <svg
          role="img"
          aria-label={`Ladder of ${rungs.length} formats and ${bands.length} volumes; the table below says the same`}
          width={width}
          height={height}
          className="block"
        >
          <g ref={axis} transform={`translate(${axisAt},0)`} />
          <text x={4} y={height - margin.bottom + 20} fontSize="12" fill="var(--muted)">
            MB/s, log
          </text>
          {bands.map((band) => (
            <Column
              key={band.id}
              band={band}
              x={x(band.id) ?? 0}
              width={x.bandwidth()}
              at={at}
              bottom={height - margin.bottom}
              selected={band.id === bandId}
              onSelect={() => onSelect(rungId, band.id)}
            />
          ))}
          {rates.map(({ rung, rate }, index) => (
            <RungLine
              key={rung.id}
              rung={rung}
              rate={rate}
              bands={bands}
              x={x}
              at={at}
              label={labels[index] ?? at(rate.required)}
              selected={rung.id === rungId}
              onSelect={() => onSelect(rung.id, bandId)}
            />
          ))}
        </svg>
      )}
    </div>
  );
}

/** Draws the axis of rates: whole steps of 1, 2 and 5. */
function useRateAxis(
  axis: RefObject<SVGGElement | null>,
  y: ScaleLogarithmic<number, number>,
  width: number,
) {
  useEffect(() => {
    if (!axis.current || width === 0) return;
    const group = select(axis.current);
    group.selectAll('*').remove();
    const ticks = y.ticks().filter((value) => '125'.includes(value.toExponential().charAt(0)));
    group
      .call(
        axisLeft(y)
          .tickValues(ticks)
          .tickFormat((value) => String(value))
          .tickSizeOuter(0),
      )
      .select('.domain')
      .attr('stroke', 'var(--edge)');
    styleFigures(group);
  }, [axis, y, width]);
}

/** A format's name, and its line across the volumes. */
function RungLine({
  rung,
  rate,
  bands,
  x,
  at,
  label,
  selected,
  onSelect,
}: {
  rung: Rung;
  rate: RequiredRate;
  bands: readonly VolumeBand[];
  x: ScaleBand<string>;
  at: (bytesPerSecond: number) => number;
  /** Where its name stands, clear of the others. */
  label: number;
  selected: boolean;
  onSelect: () => void;
}) {
  const line = at(rate.required);
  const ink = selected ? 'var(--signal-text)' : 'var(--ink)';
  return (
    <g onClick={onSelect} className="cursor-pointer" data-rung={rung.name}>
      <text
        x={axisAt + 16}
        y={label + 4}
        fontSize="13"
        fill={selected ? 'var(--signal-text)' : 'var(--ink)'}
        fontWeight={selected ? 650 : 400}
      >
        {short(rung.name)}
      </text>
      <path
        d={`M${margin.left - 42} ${label}L${margin.left - 14} ${line}H${margin.left}`}
        fill="none"
        stroke={selected ? ink : 'var(--slot)'}
        strokeWidth={selected ? 1.6 : 0.8}
      />
      {bands.map((band) => {
        const stroke = strokes[fitOf(band.sustained, rate)];
        return (
          <line
            key={band.id}
            x1={x(band.id) ?? 0}
            x2={(x(band.id) ?? 0) + x.bandwidth()}
            y1={line}
            y2={line}
            stroke={ink}
            strokeWidth={selected ? 2.6 : 1.1}
            strokeDasharray={stroke.dash}
            strokeOpacity={selected ? 1 : stroke.opacity}
          />
        );
      })}
      {selected && <MeanToPeak x={margin.left - 8} mean={at(rate.mean)} required={line} />}
      <rect
        x={axisAt + 10}
        y={label - labelGap / 2}
        width={margin.left - axisAt - 20}
        height={labelGap}
        fill="transparent"
      />
    </g>
  );
}

/** Of the chosen rung: a bracket from its mean to its required rate. */
function MeanToPeak({ x, mean, required }: { x: number; mean: number; required: number }) {
  return (
    <path
      d={`M${x - 4} ${mean}H${x + 4}M${x} ${mean}V${required}`}
      fill="none"
      stroke="var(--signal-text)"
      strokeWidth={1.6}
    />
  );
}

const longestLabel = 29;

/** A name that gives way in the middle. */
function short(name: string): string {
  return name.length <= longestLabel ? name : `${name.slice(0, 14)}…${name.slice(-14)}`;
}

interface ColumnProps {
  readonly band: VolumeBand;
  readonly x: number;
  readonly width: number;
  readonly at: (rate: number) => number;
  readonly bottom: number;
  readonly selected: boolean;
  readonly onSelect: () => void;
}

/** A volume: what plays stands in the shaft below the foot; the band spans p5 to p95. */
function Column({ band, x, width, at, bottom, selected, onSelect }: ColumnProps) {
  const foot = at(band.sustained);
  const top = at(Math.max(band.p95, band.sustained));
  const low = at(band.p5);
  return (
    <g onClick={onSelect} className="cursor-pointer">
      <rect
        x={x}
        y={foot}
        width={width}
        height={Math.max(0, bottom - foot)}
        fill="var(--raised)"
        stroke={selected ? 'var(--signal-text)' : 'none'}
      />
      <rect
        x={x}
        y={top}
        width={width}
        height={Math.max(3, low - top)}
        fill="var(--slot)"
        fillOpacity={band.from === 'measured' ? 0.45 : 0.12}
        stroke="var(--slot)"
        strokeDasharray={band.from === 'measured' ? undefined : '4 3'}
      />
      <line
        x1={x}
        x2={x + width}
        y1={foot}
        y2={foot}
        stroke="var(--cause-read)"
        strokeWidth={4}
        strokeDasharray={band.from === 'measured' ? undefined : '6 3'}
      />
      <foreignObject x={x - 3} y={bottom + 3} width={width + 6} height={margin.bottom - 4}>
        <div
          className={clsx(
            'overflow-hidden text-center text-[12px] leading-tight',
            selected && 'font-semibold text-signal-text',
          )}
          title={`${band.name}: ${megabytesPerSecond(band.sustained)} sustained`}
        >
          <span className="line-clamp-3">{band.name}</span>
        </div>
      </foreignObject>
    </g>
  );
}
