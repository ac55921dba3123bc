'use client';
import { AlertDialog } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { Button } from './Button';

/** A button that names what goes before it does it. `act` may fail with a message, which is shown. */
export function ConfirmButton({
  label,
  title,
  consequence,
  verb,
  act,
  children,
}: {
  label: string;
  title: string;
  consequence: string;
  verb: string;
  act: () => Promise<void>;
  children: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const [error, setError] = useState<string | null>(null);
  const run = () => {
    setError(null);
    act().then(
      () => setOpen(false),
      (failure: unknown) => setError(failure instanceof Error ? failure.message : String(failure)),
    );
  };
  return (
    <AlertDialog.Root open={open} onOpenChange={setOpen}>
      <AlertDialog.Trigger asChild>
        <Button look="quiet" aria-label={label}>
          {children}
        </Button>
      </AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <AlertDialog.Content className="fixed z-40 left-1/2 top-1/3 w-[min(460px,92vw)] -translate-x-1/2 border border-edge bg-surface p-5 shadow-2xl">
          <AlertDialog.Title className="font-semibold">{title}</AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-sm text-muted">{consequence}</AlertDialog.Description>
          {error && (
            <p role="alert" className="mt-3 border-l-4 border-signal pl-3 text-sm">
              {error}
            </p>
          )}
          <div className="mt-5 flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Keep</Button>
            </AlertDialog.Cancel>
            <Button look="main" onClick={run}>
              {verb}
            </Button>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
