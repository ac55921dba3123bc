'use client';
import { Command } from 'cmdk';
import { useEffect, useState, type ReactNode } from 'react';

/** An entry of a list that is found by typing. */
export interface FoundEntry {
  readonly id: string;
  /** Heading it stands under. */
  readonly group?: string;
}

interface FoundListProps<Entry extends FoundEntry> {
  readonly label: string;
  readonly placeholder: string;
  readonly text: string;
  readonly onText: (text: string) => void;
  readonly entries: readonly Entry[];
  /** Whether the entries are not yet those of the text: Enter waits for them. */
  readonly pending: boolean;
  readonly onChoose: (entry: Entry) => void;
  /** What an entry shows. */
  readonly line: (entry: Entry) => ReactNode;
  /** Entry that is chosen already. */
  readonly chosen?: string | null;
  /** Stands where nothing matches; null says nothing. */
  readonly none: ReactNode;
  readonly problem?: string | null;
  /** Below the list. */
  readonly children?: ReactNode;
}

/**
 * A field and, below it, what matches its words. The first entry is marked whenever the entries change, arrows
 * move the mark, and Enter takes the marked one: of what was typed, never of an earlier text.
 */
export function FoundList<Entry extends FoundEntry>({
  label,
  placeholder,
  text,
  onText,
  entries,
  pending,
  onChoose,
  line,
  chosen = null,
  none,
  problem = null,
  children,
}: FoundListProps<Entry>) {
  const [mark, setMark] = useState<{ id: string; of: readonly Entry[] } | null>(null);
  const [hurried, setHurried] = useState(false);
  const marked = (mark?.of === entries && entries.find(({ id }) => id === mark.id)) || entries[0];
  useEffect(() => {
    if (!hurried || pending) return;
    setHurried(false);
    if (marked) onChoose(marked);
  }, [hurried, pending, marked, onChoose]);
  const groups = [...new Set(entries.map(({ group = '' }) => group))];
  return (
    <Command
      label={label}
      shouldFilter={false}
      loop
      value={marked?.id ?? ''}
      onValueChange={(id) => setMark({ id, of: entries })}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' || event.nativeEvent.isComposing) return;
        event.preventDefault();
        if (pending) setHurried(true);
        else if (marked) onChoose(marked);
      }}
    >
      <Command.Input
        value={text}
        onValueChange={(typed) => {
          setHurried(false);
          onText(typed);
        }}
        placeholder={placeholder}
        className="w-full border-b bg-transparent px-3 py-2 text-sm outline-none placeholder:text-muted"
      />
      <Command.List label={label} className="max-h-[min(50vh,24rem)] overflow-y-auto py-1">
        {problem !== null && <p className="px-3 py-3 text-sm text-signal-text">{problem}</p>}
        {entries.length === 0 && !pending && none !== null && (
          <p className="px-3 py-3 text-sm text-muted">{none}</p>
        )}
        {groups.map((group) => (
          <Command.Group
            key={group}
            heading={group || undefined}
            className="[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-muted"
          >
            {entries
              .filter((entry) => (entry.group ?? '') === group)
              .map((entry) => (
                <Command.Item
                  key={entry.id}
                  value={entry.id}
                  onSelect={() => onChoose(entry)}
                  aria-current={entry.id === chosen || undefined}
                  className="flex min-h-8 cursor-pointer items-center gap-2 px-3 py-1 text-sm aria-[current=true]:font-semibold data-[selected=true]:bg-raised data-[selected=true]:shadow-[inset_3px_0_0_var(--signal)]"
                >
                  {line(entry)}
                </Command.Item>
              ))}
          </Command.Group>
        ))}
      </Command.List>
      {children}
    </Command>
  );
}
