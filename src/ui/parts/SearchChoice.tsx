'use client';
import { clsx } from 'clsx';
import { ChevronDown } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useEffect, useState } from 'react';
import { count } from '@/core/format';
import { FoundList, type FoundEntry } from './FoundList';
import { MiddleName } from './MiddleName';
import { Simulated } from './Simulated';

/** One of many that can be chosen. */
export interface Found extends FoundEntry {
  readonly name: string;
  /** Where it is or what it is, in small print beside its name. */
  readonly note?: string;
  readonly simulated?: boolean;
}

export interface Matches<Item extends Found> {
  readonly items: readonly Item[];
  /** How many match in all. */
  readonly total: number;
}

interface SearchChoiceProps<Item extends Found> {
  readonly label: string;
  /** Null while nothing is chosen. */
  readonly value: Item | null;
  readonly onChange: (item: Item) => void;
  /** What matches the words, the first few of all. */
  readonly search: (words: string) => Matches<Item> | Promise<Matches<Item>>;
  readonly placeholder?: string;
  readonly invalid?: boolean;
  readonly className?: string;
}

/** Most that are shown of what matches. */
export const mostShown = 50;

/** Looks for words among things that are all here. */
export const searchIn =
  <Item extends Found>(items: readonly Item[]) =>
  (text: string): Matches<Item> => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    const found = items.filter(({ name, note = '', group = '' }) => {
      const said = `${name} ${note} ${group}`.toLowerCase();
      return words.every((word) => said.includes(word));
    });
    return { items: found.slice(0, mostShown), total: found.length };
  };

/** One of as many as there may be, found by typing, with its label. */
export function SearchChoice<Item extends Found>({ className, ...choice }: SearchChoiceProps<Item>) {
  return (
    <div className={clsx('min-w-0', className)}>
      <span aria-hidden className="mb-1 block text-xs text-muted">
        {choice.label}
      </span>
      <SearchBox {...choice} />
    </div>
  );
}

/** The same without a label in sight. */
export function SearchBox<Item extends Found>({
  label,
  value,
  onChange,
  search,
  placeholder = 'Choose',
  invalid = false,
  low = false,
  className,
}: SearchChoiceProps<Item> & { readonly low?: boolean }) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        role="combobox"
        aria-label={label}
        aria-invalid={invalid}
        className={clsx(
          'flex w-full min-w-0 items-center gap-2 border border-edge bg-ground px-2 text-left text-sm aria-invalid:border-signal-text',
          low ? 'h-8' : 'h-9',
          className,
        )}
      >
        {value ? <Line item={value} /> : <span className="text-muted">{placeholder}</span>}
        <ChevronDown aria-hidden className="ml-auto size-4 shrink-0 text-muted" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={2}
          aria-label={label}
          className="z-50 w-(--radix-popover-trigger-width) max-w-[92vw] min-w-80 border border-edge bg-surface shadow-xl"
        >
          <Search
            label={label}
            chosen={value?.id ?? null}
            search={search}
            onChoose={(item) => {
              setOpen(false);
              onChange(item);
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Line({ item: { name, note, simulated } }: { item: Found }) {
  return (
    <>
      <span className="min-w-0 shrink">
        <MiddleName name={name} />
      </span>
      {note && <span className="min-w-0 max-w-1/2 shrink-[2] truncate text-xs text-muted">{note}</span>}
      {simulated && <Simulated />}
    </>
  );
}

interface SearchProps<Item extends Found> {
  readonly label: string;
  readonly chosen: string | null;
  readonly search: SearchChoiceProps<Item>['search'];
  readonly onChoose: (item: Item) => void;
}

const noItems: readonly never[] = [];

function Search<Item extends Found>({ label, chosen, search, onChoose }: SearchProps<Item>) {
  const [text, setText] = useState('');
  const [answer, setAnswer] = useState<{ to: string; matches: Matches<Item> } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    let wanted = true;
    Promise.resolve(search(text)).then(
      (matches) => {
        if (!wanted) return;
        setAnswer({ to: text, matches });
        setProblem(null);
      },
      (error: unknown) => {
        if (wanted) setProblem(error instanceof Error ? error.message : String(error));
      },
    );
    return () => {
      wanted = false;
    };
  }, [search, text]);
  const { items = noItems, total = 0 } = answer?.matches ?? {};
  return (
    <FoundList
      label={label}
      placeholder="Type to find"
      text={text}
      onText={setText}
      entries={items}
      pending={answer?.to !== text}
      onChoose={onChoose}
      line={(item) => <Line item={item} />}
      chosen={chosen}
      none={text === '' ? 'There is none yet.' : 'No match.'}
      problem={problem}
    >
      {total > items.length && (
        <p role="status" className="border-t px-3 py-1.5 text-xs text-muted">
          {count(items.length)} of {count(total)}; type more to narrow
        </p>
      )}
    </FoundList>
  );
}
