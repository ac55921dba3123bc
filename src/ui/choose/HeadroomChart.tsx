'use client';
import { percent } from '@/core/format';
import { scaleLinear } from 'd3';
import type { Decision } from '@/server/decide/decision';
import { useWidth } from '../charts/useWidth';

const rowHeight = 22;
const labelWidth = 340;
const most = 3;

/** Headroom of every known cell as bars about zero: to the right there is capacity to spare. Cut off at three times what is needed. */
export function HeadroomChart({ decision: { rows, places, cells } }: { decision: Decision }) {
  const { ref, width } = useWidth();
  const manyRigs = new Set(places.map(({ rigId }) => rigId)).size > 1;
  const bars = cells
    .flatMap(({ rowId, rigId, volumeId, judgement: { headroom, basis } }) => {
      const row = rows.find(({ id }) => id === rowId);
      const place = places.find((one) => one.rigId === rigId && one.volumeId === volumeId);
      return headroom === null || !row || !place
        ? []
        : [
            {
              key: `${rowId} ${rigId} ${volumeId}`,
              name: `${row.name}, ${place.name}${manyRigs ? `, ${place.rigName.replace(' (simulated)', '')}` : ''}`,
              headroom,
              measured: basis === 'measured',
            },
          ];
    })
    .sort((a, b) => b.headroom - a.headroom);
  if (bars.length === 0) return <p className="text-sm text-muted">No headroom is known yet.</p>;
  const height = bars.length * rowHeight + 40;
  const x = scaleLinear([-1, most - 1], [labelWidth, Math.max(labelWidth + 60, width - 60)]).clamp(true);
  return (
    <div ref={ref} className="border bg-surface">
      {width > 0 && (
        <svg
          role="img"
          aria-label={`Headroom: ${bars.map(({ name, headroom }) => `${name} ${percent(headroom, 0)}`).join('; ')}`}
          width={width}
          height={height}
          xmlns="http://www.w3.org/2000/svg"
          className="block"
        >
          <text x={x(0)} y={14} fontSize={12} fill="var(--muted)" textAnchor="middle">
            just enough
          </text>
          <text x={width - 6} y={14} fontSize={12} fill="var(--muted)" textAnchor="end">
            capacity to spare →
          </text>
          {bars.map(({ key, name, headroom, measured }, at) => (
            <g key={key} transform={`translate(0,${22 + at * rowHeight})`}>
              <text x={6} y={14} fontSize={12} fill="var(--ink)">
                {name.length > 52 ? `${name.slice(0, 30)} … ${name.slice(-18)}` : name}
              </text>
              <rect
                x={Math.min(x(0), x(headroom))}
                y={4}
                width={Math.max(1, Math.abs(x(headroom) - x(0)))}
                height={13}
                fill={headroom < 0 ? 'var(--signal-text)' : measured ? 'var(--slot)' : 'none'}
                stroke="var(--slot)"
                strokeDasharray={measured ? undefined : '3 2'}
              />
              <text
                x={Math.max(x(0), x(headroom)) + 6}
                y={15}
                fontSize={12}
                fontFamily="var(--font-mono)"
                fill="var(--ink)"
              >
                {headroom >= 0 ? '+' : '−'}
                {percent(Math.abs(headroom), 0)}
              </text>
            </g>
          ))}
          <line x1={x(0)} x2={x(0)} y1={18} y2={height - 16} stroke="var(--ink)" />
          <text x={6} y={height - 4} fontSize={11} fill="var(--muted)">
            filled: measured; outline: by arithmetic; in the signal colour: not enough
          </text>
        </svg>
      )}
    </div>
  );
}
