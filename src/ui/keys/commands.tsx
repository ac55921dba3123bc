'use client';
import {
  createContext,
  useCallback,
  useContext,
  useLayoutEffect,
  useRef,
  useState,
  type ReactNode,
} from 'react';
import { heldKeys, startKeys } from './comingUp';
import { takeEarlyInput } from './earlyInput';

/** Something a person can do on a screen: by palette, and by key where it has one. */
export interface Command {
  readonly id: string;
  readonly label: string;
  /** The heading it stands under in the palette and the key list. */
  readonly group: string;
  /** As `KeyboardEvent.key`, with "Shift+" or "Ctrl+" in front where needed. */
  readonly key?: string;
  readonly run: () => void;
}

/** Makes commands under one heading. */
export const commandsUnder =
  (group: string) =>
  (id: string, label: string, key: string, run: () => void): Command => ({ id, label, group, key, run });

type Register = (commands: readonly Command[]) => () => void;

/** Apart, so that a component that offers commands is not drawn again when others do. */
const RegisterContext = createContext<Register>(() => () => undefined);
const ListContext = createContext<readonly Command[]>([]);

function keyOf(event: KeyboardEvent): string {
  const shift = event.shiftKey && event.key.length > 1 ? 'Shift+' : '';
  const letter =
    event.key.length === 1 && event.shiftKey && /[a-z]/i.test(event.key)
      ? `Shift+${event.key.toUpperCase()}`
      : event.key;
  return `${event.ctrlKey || event.metaKey ? 'Ctrl+' : ''}${shift}${letter}`;
}

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}

/** The key that commands may hear of, or null: what is typed in a field or pressed in a dialog is theirs. */
function commandKey(event: KeyboardEvent): string | null {
  const key = keyOf(event);
  const inDialog =
    event.target instanceof HTMLElement &&
    event.target.closest('[role=dialog],[role=listbox],[role=menu],[data-own-keys]') !== null;
  return inDialog || (isTyping(event.target) && !key.startsWith('Ctrl+')) ? null : key;
}

/** Holds the commands of all mounted components, newest last, and runs them by key. A key pressed while the page comes up is kept for it. */
export function CommandsProvider({ children }: { children: ReactNode }) {
  // Kept apart from what is drawn: a key finds the commands of a screen as soon as the screen is there.
  const sets = useRef<readonly (readonly Command[])[]>([]);
  const [commands, setCommands] = useState<readonly Command[]>([]);
  useLayoutEffect(() => {
    const commandOf = (key: string) => sets.current.flat().findLast((candidate) => candidate.key === key);
    const onKey = (event: KeyboardEvent) => {
      const key = commandKey(event);
      if (key === null) return;
      const command = commandOf(key);
      if (!command) {
        heldKeys.hold(key);
        return;
      }
      event.preventDefault();
      if (heldKeys.areDue) heldKeys.follow(key);
      else command.run();
    };
    for (const event of takeEarlyInput()) {
      const key = commandKey(event);
      if (key !== null) heldKeys.hold(key, event.timeStamp);
    }
    startKeys((key) => commandOf(key)?.run());
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const register = useCallback<Register>((added) => {
    const change = (next: readonly (readonly Command[])[]) => {
      sets.current = next;
      setCommands(next.flat());
    };
    change([...sets.current, added]);
    return () => change(sets.current.filter((set) => set !== added));
  }, []);
  return (
    <RegisterContext value={register}>
      <ListContext value={commands}>{children}</ListContext>
    </RegisterContext>
  );
}

/** Offers commands while the component is shown. Keep the array stable with `useMemo`. */
export function useCommands(commands: readonly Command[]): void {
  const register = useContext(RegisterContext);
  useLayoutEffect(() => register(commands), [register, commands]);
}

export function useCommandList(): readonly Command[] {
  return useContext(ListContext);
}
