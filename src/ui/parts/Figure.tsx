import { clsx } from 'clsx';
import type { ReactNode } from 'react';

/** One figure with its name, and under it what it rests on. */
export function Figure({ name, children, note }: { name: string; children: ReactNode; note?: ReactNode }) {
  return (
    <div className="min-w-0 bg-surface px-3 py-2">
      <dt className="text-xs text-muted">{name}</dt>
      <dd className="figure text-lg leading-snug">{children}</dd>
      {note && <dd className="text-xs text-muted">{note}</dd>}
    </div>
  );
}

/** Figures in rows that share hairlines: as many in a row as fit, or exactly `columns`. */
export function FigureRow({ children, columns }: { children: ReactNode; columns?: 4 | 5 }) {
  return (
    <dl
      className={clsx(
        'gap-px border bg-line',
        columns === undefined && 'flex flex-wrap content-stretch *:flex-[1_1_9rem]',
        columns === 4 && 'grid grid-cols-4',
        columns === 5 && 'grid grid-cols-5',
      )}
    >
      {children}
    </dl>
  );
}

/** Named facts in a two-column list. */
export function Facts({ rows }: { rows: readonly (readonly [string, ReactNode])[] }) {
  return (
    <dl className="grid content-start grid-cols-[minmax(8rem,max-content)_1fr] gap-x-5 gap-y-1 text-sm">
      {rows.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-muted">{name}</dt>
          <dd className="min-w-0 break-words">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
