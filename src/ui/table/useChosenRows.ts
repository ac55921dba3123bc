'use client';
import { functionalUpdate, type RowSelectionState, type Updater } from '@tanstack/react-table';
import { useState } from 'react';

/** Rows that are chosen, which stay so while other pages are looked at. */
export function useChosenRows<Row>(
  rows: readonly Row[],
  rowId: (row: Row) => string,
  folded: ((row: Row) => readonly Row[]) | undefined,
) {
  const [rowSelection, setRowSelection] = useState<RowSelectionState>({});
  const [chosenRows, setChosenRows] = useState<ReadonlyMap<string, Row>>(new Map());
  const choose = (update: Updater<RowSelectionState>) => {
    const next = functionalUpdate(update, rowSelection);
    const here = new Map(
      rows.flatMap((row) => [row, ...(folded?.(row) ?? [])]).map((row) => [rowId(row), row]),
    );
    setRowSelection(next);
    setChosenRows(
      new Map(
        Object.keys(next).flatMap((id): [string, Row][] => {
          const row = next[id] ? (here.get(id) ?? chosenRows.get(id)) : undefined;
          return row === undefined ? [] : [[id, row]];
        }),
      ),
    );
  };
  const chooseThese = (all: readonly Row[]) => {
    setRowSelection(Object.fromEntries(all.map((row) => [rowId(row), true])));
    setChosenRows(new Map(all.map((row) => [rowId(row), row])));
  };
  return { rowSelection, chosenRows, choose, chooseThese };
}
