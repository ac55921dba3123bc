'use client';
import { milliseconds } from '@/core/format';
import { toNumber } from '@/core/time/rational';
import type { EffectCosts, ScaleEffectCosts } from '@/core/timeline/effectCosts';
import type { EffectKind } from '@/core/timeline/model';
import { effectName } from '@/core/timeline/parts';
import { timelineView } from './shared/timeline';

export const calibration = timelineView<'calibration'>(
  ({ trial: { summary, subject } }) => <Costs costs={summary} rate={toNumber(subject.timeline.rate)} />,
  'Raw record',
);

function Costs({ costs, rate }: { costs: EffectCosts; rate: number }) {
  const { width, height, scales, deep } = costs;
  return (
    <section aria-label="Costs" className="space-y-3">
      <CostsTable
        label="Cost per slot"
        head={`Per slot, at ${width}x${height}${deep ? ', in 8 bits a channel' : ''}`}
        scales={scales}
      />
      {deep && (
        <CostsTable
          label="Cost per slot in 16 bits"
          head={`Per slot, at ${width}x${height}, in 16 bits a channel`}
          scales={deep}
        />
      )}
      <p className="max-w-3xl text-xs text-muted">
        Median of seven runs on one decoded frame, each right after one without. Effects count as what they
        add to one layer; a transform makes the picture smaller and may save time.
        {deep && ' 16 bits are taken where a source has more than 8, here on the same frame in 10.'} A slot
        lasts {milliseconds(1000 / rate)} here.
      </p>
    </section>
  );
}

function CostsTable({
  label,
  head,
  scales,
}: {
  label: string;
  head: string;
  scales: readonly ScaleEffectCosts[];
}) {
  const kinds = [...new Set(scales.flatMap(({ effects }) => Object.keys(effects) as EffectKind[]))];
  const rows: (readonly [string, (scale: ScaleEffectCosts) => number | undefined])[] = [
    ['one layer, no effect', ({ baseUs }) => baseUs],
    ['a second layer over it', ({ layerUs }) => layerUs],
    ...kinds.map((kind) => [effectName({ kind }), ({ effects }: ScaleEffectCosts) => effects[kind]] as const),
  ];
  return (
    <table aria-label={label} className="w-full max-w-3xl border-collapse border bg-surface text-sm">
      <thead>
        <tr className="border-b text-left text-xs text-muted">
          <th scope="col" className="w-96 px-3 py-1.5 font-normal">
            {head}
          </th>
          {scales.map(({ scale }) => (
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
            {scales.map((scale) => {
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
  );
}
