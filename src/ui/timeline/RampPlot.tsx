'use client';
import { scaleLinear, scalePoint, select } from 'd3';
import { useEffect, useMemo, useRef } from 'react';
import { causesOf } from '@/core/playback/attribute';
import type { RampProbe, RampResult } from '@/core/timeline/ramp';
import { drawValueAxis } from '../charts/axes';
import { causeStyles } from '../charts/causes';
import { useWidth } from '../charts/useWidth';
import { greatest } from '@/core/stats/extremes';

const height = 280;
const margin = { top: 18, right: 24, bottom: 30, left: 60 };

type Edge = RampResult['edges'][number];

/** Where an edge is drawn: between what played and what dropped. */
const levelOf = ({ plays, drops }: Edge) => (drops === null ? plays : (plays + drops) / 2);

function Probe({
  scale,
  level,
  dropped,
  slots,
  x,
  y,
}: RampProbe & { readonly x: number; readonly y: number }) {
  return dropped === 0 ? (
    <circle cx={x} cy={y} r="4.5" fill="var(--ink)">
      <title>{`${scale}, ${level}: all ${slots} slots shown`}</title>
    </circle>
  ) : (
    <path d={`M${x - 5},${y - 5}l10,10m0,-10l-10,10`} stroke="var(--signal-text)" strokeWidth="2">
      <title>{`${scale}, ${level}: ${dropped} of ${slots} slots dropped`}</title>
    </path>
  );
}

/** A scale's name, and what was late at its edge. */
function EdgeWords({
  edge: { scale, charge, drops },
  x,
  y,
}: {
  readonly edge: Edge;
  readonly x: number;
  readonly y: number;
}) {
  const late = causesOf(charge).map((stage) => causeStyles[stage].word);
  return (
    <g>
      <text x={x} y={height - 8} textAnchor="middle" fontSize="13" fill="var(--ink)">
        {scale} scale
      </text>
      <text x={x + 12} y={y - 8} fontSize="12" fill="var(--muted)">
        {drops === null ? 'no edge up to here' : charge === 0 ? '' : `late: ${late.join(' and ')}`}
      </text>
    </g>
  );
}

/** The edge over the playback scales: filled where it played, crossed where it dropped, with the cause at the edge. */
export function RampPlot({ ramp, probes }: { ramp: RampResult; probes: readonly RampProbe[] }) {
  const { ref, width } = useWidth();
  const axis = useRef<SVGGElement>(null);
  const { x, y } = useMemo(
    () => ({
      x: scalePoint(
        ramp.edges.map(({ scale }) => scale),
        [margin.left, Math.max(margin.left + 1, Math.min(width, 720) - margin.right)],
      ).padding(0.6),
      y: scaleLinear(
        [
          0,
          greatest(
            probes.map(({ level }) => level),
            2,
          ),
        ],
        [height - margin.bottom, margin.top],
      ).nice(),
    }),
    [ramp, probes, width],
  );
  useEffect(() => {
    if (!axis.current || width === 0) return;
    const group = select(axis.current);
    group.selectAll('*').remove();
    drawValueAxis(
      group.append('g').attr('transform', `translate(${margin.left},0)`),
      y,
      Math.min(width, 720) - margin.right - margin.left,
      6,
    );
  }, [y, width]);
  const edge = ramp.edges.map((edgeAt) => [x(edgeAt.scale) ?? 0, y(levelOf(edgeAt))] as const);
  return (
    <div ref={ref} className="border bg-surface">
      {width > 0 && (
        <svg
          role="img"
          aria-label={`Edge of ${ramp.family} at each playback scale`}
          width={Math.min(width, 720)}
          height={height}
          className="block"
        >
          <g ref={axis} />
          <text x={6} y={height - 8} fontSize="12" fill="var(--muted)">
            {ramp.family}
          </text>
          <path
            d={edge.map(([left, top], at) => `${at === 0 ? 'M' : 'L'}${left},${top}`).join('')}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="1.8"
          />
          {probes.map((probe) => (
            <Probe
              key={`${probe.scale}-${probe.level}`}
              {...probe}
              x={x(probe.scale) ?? 0}
              y={y(probe.level)}
            />
          ))}
          {ramp.edges.map((edgeAt) => (
            <EdgeWords key={edgeAt.scale} edge={edgeAt} x={x(edgeAt.scale) ?? 0} y={y(levelOf(edgeAt))} />
          ))}
        </svg>
      )}
    </div>
  );
}
