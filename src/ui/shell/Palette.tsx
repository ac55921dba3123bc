'use client';
import { defaultFilter } from 'cmdk';
import { useRouter } from 'next/navigation';
import { Dialog, VisuallyHidden } from 'radix-ui';
import { useEffect, useMemo, useState, type ReactNode } from 'react';
import type { FoundPage } from '@/server/find';
import { callApi } from '../api';
import { FoundList, type FoundEntry } from '../parts/FoundList';
import { MiddleName } from '../parts/MiddleName';
import { useCommandList, type Command } from '../keys/commands';

/** Time after the last key before names are looked for, ms, and the fewest letters. */
const pause = 80;
const fewestLetters = 2;

/** What the server finds by name while somebody types, and whether it is not yet of these words. */
function useNames(text: string): { names: readonly FoundPage[]; pending: boolean } {
  const [answer, setAnswer] = useState<{ to: string; found: readonly FoundPage[] }>({ to: '', found: [] });
  const wanted = text.trim();
  const isShort = wanted.length < fewestLetters;
  useEffect(() => {
    if (isShort) return;
    let isWanted = true;
    const timer = setTimeout(() => {
      // What cannot be looked for now is not found; actions still are.
      void callApi('GET /api/find', { query: { text: wanted } })
        .then(
          ({ found }) => found,
          () => [],
        )
        .then((found) => {
          if (isWanted) setAnswer({ to: wanted, found });
        });
    }, pause);
    return () => {
      isWanted = false;
      clearTimeout(timer);
    };
  }, [wanted, isShort]);
  return isShort ? nothing : { names: answer.found, pending: answer.to !== wanted };
}

const nothing = { names: [], pending: false };

/** An action or a page with a name. */
interface Entry extends FoundEntry {
  readonly name: ReactNode;
  readonly aside: ReactNode;
  readonly run: () => void;
}

const entryOfCommand = ({ id, group, label, key, run }: Command): Entry => ({
  id,
  group,
  name: label,
  aside: key && <KeyName name={key} />,
  run,
});

/** The actions that the words fit, the best first. */
function actionsFor(text: string, commands: readonly Command[]): readonly Entry[] {
  if (text.trim() === '') return commands.map(entryOfCommand);
  return commands
    .map((command) => ({ command, fit: defaultFilter(`${command.group} ${command.label}`, text) }))
    .filter(({ fit }) => fit > 0)
    .sort((a, b) => b.fit - a.fit)
    .map(({ command }) => entryOfCommand(command));
}

/** All that can be done here and all that has a name, found by typing. */
export function Palette({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed z-40 left-1/2 top-24 w-[min(560px,92vw)] -translate-x-1/2 border border-edge bg-surface shadow-2xl"
        >
          <VisuallyHidden.Root>
            <Dialog.Title>Actions</Dialog.Title>
          </VisuallyHidden.Root>
          <Finder onDone={() => onOpenChange(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Finder({ onDone }: { onDone: () => void }) {
  const commands = useCommandList();
  const router = useRouter();
  const [text, setText] = useState('');
  const { names, pending } = useNames(text);
  const actions = useMemo(() => actionsFor(text, commands), [text, commands]);
  const entries = useMemo(
    () => [
      ...actions,
      ...names.map(({ id, group, name, note, href }): Entry => ({
        id: `${group} ${id}`,
        group,
        name: <MiddleName name={name} />,
        aside: note,
        run: () => router.push(href),
      })),
    ],
    [actions, names, router],
  );
  return (
    <FoundList
      label="Actions"
      placeholder="Find an action, clip, volume, timeline, trial or brief"
      text={text}
      onText={setText}
      entries={entries}
      pending={pending && actions.length === 0}
      onChoose={({ run }) => {
        onDone();
        run();
      }}
      line={({ name, aside }) => (
        <>
          <span className="min-w-0">{name}</span>
          <span className="ml-auto shrink-0 pl-4 text-xs text-muted">{aside}</span>
        </>
      )}
      none="Nothing has this name."
    />
  );
}

const keyNames: Record<string, string> = {
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
  ' ': 'Space',
};

function KeyName({ name }: { name: string }) {
  return (
    <span className="figure flex gap-1 text-xs text-muted">
      {name.split(/\+(?=.)/).map((part) => (
        <kbd key={part} className="border border-edge px-1.5 py-0.5">
          {keyNames[part] ?? (part.length === 1 ? part.toUpperCase() : part)}
        </kbd>
      ))}
    </span>
  );
}

/** The keys of the present screen. */
export function KeyHelp({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const commands = useCommandList().filter((command) => command.key);
  const names = [...new Set(commands.map((command) => command.group))];
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed z-40 left-1/2 top-20 max-h-[80vh] w-[min(560px,92vw)] -translate-x-1/2 overflow-auto border border-edge bg-surface p-6 shadow-2xl"
        >
          <Dialog.Title className="text-lg font-semibold">Keys of this screen</Dialog.Title>
          {names.map((group) => (
            <section key={group} className="mt-4">
              <h3 className="text-xs text-muted">{group}</h3>
              <dl>
                {commands
                  .filter((command) => command.group === group)
                  .map((command) => (
                    <div
                      key={command.id}
                      className="flex items-center justify-between border-b py-1.5 text-sm"
                    >
                      <dt>{command.label}</dt>
                      <dd>
                        <KeyName name={command.key ?? ''} />
                      </dd>
                    </div>
                  ))}
              </dl>
            </section>
          ))}
          <Dialog.Close className="mt-5 border border-edge px-3 py-1.5 text-sm">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
