'use client';
import { milliseconds } from '@/core/format';
import { toNumber } from '@/core/time/rational';
import type { EffectCosts } from '@/core/timeline/effectCosts';
import type { EffectKind } from '@/core/timeline/model';
import { effectName } from '@/core/timeline/parts';
import { timelineView } from './shared/timeline';

export const calibration = timelineView<'calibration'>(
  ({ trial: { summary, subject } }) => <CostsTable costs={summary} rate={toNumber(subject.timeline.rate)} />,
  'Raw record',
);

function CostsTable({ costs, rate }: { costs: EffectCosts; rate: number }) {
  const kinds = [...new Set(costs.scales.flatMap(({ effects }) => Object.keys(effects) as EffectKind[]))];
  const rows: (readonly [string, (scale: EffectCosts['scales'][number]) => number | undefined])[] = [
    ['one layer, no effect', ({ baseUs }) => baseUs],
    ['a second layer over it', ({ layerUs }) => layerUs],
    ...kinds.map(
      (kind) =>
        [effectName({ kind }), ({ effects }: EffectCosts['scales'][number]) => effects[kind]] as const,
    ),
  ];
  return (
    <section aria-label="Costs">
      <table
        aria-label="Cost per slot"
        className="w-full max-w-3xl border-collapse border bg-surface text-sm"
      >
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            <th scope="col" className="px-3 py-1.5 font-normal">
              Per slot, at {costs.width}x{costs.height}
            </th>
            {costs.scales.map(({ scale }) => (
              <th key={scale} scope="col" className="px-3 py-1.5 text-right font-normal">
                {scale} scale
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, of]) => (
            <tr key={name} className="border-b last:border-b-0">
              <td className="px-3 py-1.5">{name}</td>
              {costs.scales.map((scale) => {
                const us = of(scale);
                return (
                  <td key={scale.scale} className="figure px-3 py-1.5 text-right">
                    {us === undefined ? '–' : `${us < 0 ? '−' : ''}${milliseconds(Math.abs(us) / 1000)}`}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 max-w-3xl text-xs text-muted">
        Median of seven runs on one decoded frame, each right after one without. Effects count as what they
        add to one layer; a transform makes the picture smaller and may save time. A slot lasts{' '}
        {milliseconds(1000 / rate)} here.
      </p>
    </section>
  );
}
