import { percent } from '@/core/format';
import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { ColumnHeads } from '../table/ColumnHeads';

/** One thing that may have held a task back. */
export interface HeldRow {
  readonly id: string;
  readonly name: string;
  readonly colour: string;
  /** Saved if it were twice as fast, and if it took nothing; shares of the time. */
  readonly twice: number;
  readonly free: number;
  /** What else is told of it, in the order of the heads. */
  readonly cells: readonly ReactNode[];
}

/** What would have been saved with more of each: the one that held the task back stands out. */
export function HeldTable({
  first,
  heads,
  rows,
  held,
}: {
  /** Head of the names. */
  first: string;
  heads: readonly string[];
  rows: readonly HeldRow[];
  held: string | null;
}) {
  return (
    <div className="overflow-x-auto border bg-surface">
      <table aria-label="What held it back" className="w-full text-sm">
        <ColumnHeads names={[first, ...heads, 'Saved if twice as fast', 'Saved if it took nothing']} />
        <tbody>
          {rows.map(({ id, name, colour, twice, free, cells }) => (
            <tr
              key={id}
              aria-current={id === held ? 'true' : undefined}
              className="border-b last:border-b-0 aria-[current]:bg-raised aria-[current]:font-semibold"
            >
              <th scope="row" className={clsx('px-3 py-1.5 text-left', id !== held && 'font-normal')}>
                <span
                  aria-hidden
                  className="mr-2 inline-block h-3 w-3 align-[-1px]"
                  style={{ background: colour }}
                />
                {name}
                {id === held && <span className="ml-2 text-signal-text">held it back</span>}
              </th>
              {cells.map((cell, at) => (
                <td key={heads[at]} className="figure px-3 py-1.5">
                  {cell}
                </td>
              ))}
              <Saved share={twice} colour={colour} />
              <Saved share={free} colour={colour} />
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Saved({ share, colour }: { share: number; colour: string }) {
  return (
    <td className="px-3 py-1.5">
      <span className="flex items-center gap-2">
        <span className="figure w-12 text-right">{percent(share, 0)}</span>
        <span aria-hidden className="block h-2 w-32 bg-raised">
          <span className="block h-2" style={{ width: `${Math.min(1, share) * 100}%`, background: colour }} />
        </span>
      </span>
    </td>
  );
}
