'use client';
import { count } from '@/core/format';
import { useState } from 'react';
import { Button } from './Button';
import { MiddleName } from './MiddleName';
import { Checkbox } from './Checkbox';
import { toggled } from '@/core/toggled';

export interface Pick {
  readonly id: string;
  readonly name: string;
  readonly note?: string;
  readonly group?: string;
}

interface PickListProps {
  readonly label: string;
  readonly items: readonly Pick[];
  readonly chosen: ReadonlySet<string>;
  readonly onChange: (chosen: ReadonlySet<string>) => void;
  /** Said when there is nothing to pick. */
  readonly empty: string;
}

const filteredFrom = 9;
/** Most that are drawn at once. */
const mostDrawn = 200;

/** Several of many, by box; with a filter where they are many. */
export function PickList({ label, items, chosen, onChange, empty }: PickListProps) {
  const [typed, setTyped] = useState('');
  const shown = items.filter(({ name, note = '' }) =>
    `${name} ${note}`.toLowerCase().includes(typed.toLowerCase()),
  );
  const toggle = (id: string) => onChange(toggled(chosen, id));
  const all = shown.length > 0 && shown.every(({ id }) => chosen.has(id));
  return (
    <fieldset className="min-w-0 border bg-surface">
      <legend className="sr-only">{label}</legend>
      <div className="flex items-center gap-2 border-b px-2 py-1 text-sm">
        <span aria-hidden className="font-semibold">
          {label}
        </span>
        <span className="text-muted">
          {count(items.filter(({ id }) => chosen.has(id)).length)} of {count(items.length)}
        </span>
        {items.length >= filteredFrom && (
          <input
            aria-label={`Filter ${label}`}
            placeholder="Filter"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            className="h-7 min-w-0 flex-1 border border-edge bg-ground px-2 text-sm placeholder:text-muted"
          />
        )}
        {items.length > 1 && (
          <Button
            look="quiet"
            className="ml-auto h-7 px-2 text-xs"
            onClick={() =>
              onChange(
                new Set(
                  all
                    ? [...chosen].filter((id) => !shown.some((one) => one.id === id))
                    : [...chosen, ...shown.map(({ id }) => id)],
                ),
              )
            }
          >
            {all ? 'None' : 'All'}
          </Button>
        )}
      </div>
      <ul
        className="max-h-52 overflow-y-auto py-1"
        tabIndex={items.length > 7 ? 0 : undefined}
        aria-label={items.length > 7 ? `${label}, list` : undefined}
      >
        {items.length === 0 && <li className="px-3 py-2 text-sm text-muted">{empty}</li>}
        {shown.slice(0, mostDrawn).map(({ id, name, note }) => (
          <li key={id}>
            <label className="flex min-h-7 items-center gap-2 px-2 text-sm hover:bg-raised">
              <Checkbox checked={chosen.has(id)} onChange={() => toggle(id)} />
              <span className="min-w-0 shrink">
                <MiddleName name={name} />
              </span>
              {note && <span className="ml-auto shrink-0 pl-3 text-xs text-muted">{note}</span>}
            </label>
          </li>
        ))}
        {shown.length > mostDrawn && (
          <li className="px-2 py-1 text-xs text-muted">
            {count(mostDrawn)} of {count(shown.length)} are listed. Filter them to see the others.
          </li>
        )}
      </ul>
    </fieldset>
  );
}
