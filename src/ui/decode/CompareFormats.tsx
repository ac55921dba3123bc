'use client';
import { milliseconds } from '@/core/format';
import { max, scaleLinear } from 'd3';
import Link from 'next/link';
import { useMemo } from 'react';
import { formatLabel } from '@/core/media/format';
import type { TrialListRow } from '../pages';

type ListRow = TrialListRow<'decode-rate'>;

interface Row {
  readonly id: string;
  readonly name: string;
  readonly format: string;
  readonly perMegapixel: number;
  readonly perMegabit: number;
}

/** The newest decode rate of each clip's content, cheapest per megapixel first. */
export function comparedFormats(trials: readonly ListRow[]): Row[] {
  const newest = new Map<string, Row>();
  for (const { id, subject, summary: result } of trials) {
    const key = subject.contentHash ?? subject.clipPath;
    if (!result || result.msPerMegapixel === null || result.msPerMegabit === null || newest.has(key))
      continue;
    newest.set(key, {
      id,
      name: subject.clipPath.split('/').at(-1) ?? '',
      format: formatLabel(subject.format),
      perMegapixel: result.msPerMegapixel,
      perMegabit: result.msPerMegabit,
    });
  }
  return [...newest.values()].sort((a, b) => a.perMegapixel - b.perMegapixel);
}

/** Formats on one chart: what a megapixel of picture and a megabit of data cost one core. */
export function CompareFormats({ trials }: { trials: readonly ListRow[] }) {
  const rows = useMemo(() => comparedFormats(trials), [trials]);
  if (rows.length === 0) return null;
  return (
    <figure aria-label="Formats compared">
      <div className="overflow-x-auto border bg-surface">
        <table className="w-full text-sm">
          <thead>
            <tr className="border-b text-left text-xs text-muted">
              <th scope="col" className="px-3 py-1.5 font-normal">
                Format
              </th>
              <th scope="col" className="w-[36%] px-3 py-1.5 font-normal">
                One core, per megapixel decoded
              </th>
              <th scope="col" className="w-[36%] px-3 py-1.5 font-normal">
                One core, per megabit of data
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.id} className="border-b last:border-b-0">
                <th scope="row" className="px-3 py-1 text-left font-normal">
                  <Link
                    prefetch={false}
                    href={`/media/decode/${row.id}`}
                    className="underline decoration-edge underline-offset-4"
                  >
                    {row.format}
                  </Link>
                  <span className="block truncate text-xs text-muted">{row.name}</span>
                </th>
                <td className="px-3 py-1">
                  <Bar
                    value={row.perMegapixel}
                    most={max(rows, ({ perMegapixel }) => perMegapixel) ?? 1}
                    solid
                  />
                </td>
                <td className="px-3 py-1">
                  <Bar
                    value={row.perMegabit}
                    most={max(rows, ({ perMegabit }) => perMegabit) ?? 1}
                    solid={false}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <figcaption className="mt-1 text-xs text-muted">
        Shorter is cheaper. The left bars compare rasters of any size, the right ones codecs of any data rate;
        times of one pinned core in software.
      </figcaption>
    </figure>
  );
}

function Bar({ value, most, solid }: { value: number; most: number; solid: boolean }) {
  const share = scaleLinear([0, most], [0, 72]);
  return (
    <span className="flex items-center gap-2">
      <span
        aria-hidden
        className={`h-3.5 ${solid ? 'bg-slot' : 'border border-slot bg-[repeating-linear-gradient(135deg,var(--slot)_0_1.5px,transparent_1.5px_5px)]'}`}
        style={{ width: `${Math.max(0.5, share(value))}%` }}
      />
      <span className="figure whitespace-nowrap">{milliseconds(value)}</span>
    </span>
  );
}
