'use client';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { count } from '@/core/format';
import type { SortingState } from '@tanstack/react-table';
import { Button } from '../parts/Button';

/** Rows that are one page of a list which the server narrows and orders. */
export interface Paging<Row> {
  /** Rows on all pages. */
  readonly total: number;
  /** Counted from 1. */
  readonly page: number;
  readonly size: number;
  /** Whether the rows are those that were asked for; until then none can be chosen. */
  readonly isAnswer: boolean;
  readonly onPage: (page: number) => void;
  /** Where all rows are as CSV. */
  readonly csvHref: string;
  /** What the ways to the page before and the next are called; without, they are before and after. */
  readonly turns?: readonly [before: string, after: string];
  /** How rows are ordered, in words behind their number. */
  readonly ordered?: string;
  /** The column that the server sorts by; without, rows come in one order alone. */
  readonly sorting?: SortingState;
  readonly onSort?: (sorting: SortingState) => void;
  /** Rows of all pages, to choose them all. */
  readonly all?: () => Promise<readonly Row[]>;
}

/** Which part of a list is seen, and the ways to the others. */
export function Pager({
  label,
  paging,
  shown,
}: {
  label: string;
  paging: Pick<Paging<never>, 'total' | 'page' | 'size' | 'onPage' | 'turns' | 'ordered'>;
  shown: number;
}) {
  const { total, page, size, onPage, turns: [before, after] = ['Before', 'After'], ordered } = paging;
  const from = (page - 1) * size + 1;
  const pages = Math.max(1, Math.ceil(total / size));
  return (
    <nav
      aria-label={`Pages of ${label}`}
      className="flex flex-wrap items-center gap-2 border-t px-2 py-1.5 text-sm text-muted"
    >
      <span role="status">
        {shown === 0
          ? `none of ${count(total)}`
          : pages === 1
            ? `${count(total)} ${total === 1 ? 'row' : 'rows'}`
            : `${count(from)} to ${count(from + shown - 1)} of ${count(total)}${ordered ? `, ${ordered}` : ''}`}
      </span>
      {pages > 1 && (
        <span data-no-print className="ml-auto flex items-center gap-1">
          <Button look="quiet" className="h-8" disabled={page <= 1} onClick={() => onPage(page - 1)}>
            <ChevronLeft aria-hidden className="size-4" />
            {before}
          </Button>
          <span className="figure">
            {count(page)} / {count(pages)}
          </span>
          <Button look="quiet" className="h-8" disabled={page >= pages} onClick={() => onPage(page + 1)}>
            {after}
            <ChevronRight aria-hidden className="size-4" />
          </Button>
        </span>
      )}
    </nav>
  );
}
