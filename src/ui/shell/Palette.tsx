'use client';
import { Command as Menu } from 'cmdk';
import { Dialog, VisuallyHidden } from 'radix-ui';
import { useCommandList } from './commands';

const field = 'w-full border-b bg-transparent px-4 py-3 text-base outline-none placeholder:text-muted';
const entry =
  'flex cursor-pointer items-center justify-between px-4 py-2 text-sm data-[selected=true]:bg-raised data-[selected=true]:shadow-[inset_3px_0_0_var(--signal)]';
const groups =
  '[&_[cmdk-group-heading]]:px-4 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:pt-3 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-muted';

/** All that can be done here, found by typing. */
export function Palette({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const commands = useCommandList();
  const names = [...new Set(commands.map((command) => command.group))];
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-24 w-[min(560px,92vw)] -translate-x-1/2 border border-edge bg-surface shadow-2xl"
        >
          <VisuallyHidden.Root>
            <Dialog.Title>Actions</Dialog.Title>
          </VisuallyHidden.Root>
          <Menu label="Actions" loop>
            <Menu.Input placeholder="Find an action" className={field} />
            <Menu.List className={`max-h-[50vh] overflow-auto pb-2 ${groups}`}>
              <Menu.Empty className="px-4 py-6 text-sm text-muted">No action has these words.</Menu.Empty>
              {names.map((group) => (
                <Menu.Group key={group} heading={group}>
                  {commands
                    .filter((command) => command.group === group)
                    .map((command) => (
                      <Menu.Item
                        key={command.id}
                        value={`${group} ${command.label}`}
                        className={entry}
                        onSelect={() => {
                          onOpenChange(false);
                          command.run();
                        }}
                      >
                        <span>{command.label}</span>
                        {command.key && <KeyName name={command.key} />}
                      </Menu.Item>
                    ))}
                </Menu.Group>
              ))}
            </Menu.List>
          </Menu>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

const keyNames: Record<string, string> = {
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
  ' ': 'Space',
};

export function KeyName({ name }: { name: string }) {
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
        <Dialog.Overlay className="fixed inset-0 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-20 max-h-[80vh] w-[min(560px,92vw)] -translate-x-1/2 overflow-auto border border-edge bg-surface p-6 shadow-2xl"
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
