'use client';
import { useMemo, useState } from 'react';
import { count } from '@/core/format';
import { CubeError, parseCube, type Cube } from '@/core/formats/cube';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { useSend } from '../useSend';
import { useFileText } from '../useFileText';

/** What is in a look's text, or why it cannot be read. */
function toldOf(text: string, name: string): { readonly told: Cube } | { readonly problem: string } {
  try {
    return { told: parseCube(text) };
  } catch (failure) {
    if (!(failure instanceof CubeError)) throw failure;
    return { problem: `${name} cannot be read. ${failure.message}` };
  }
}

/** A look is read, what is in it is told, and then it is imported. @param onDiscard when it is not wanted */
export function ImportLook({ file, onDiscard }: { readonly file: File; readonly onDiscard: () => void }) {
  const { busy, error, send } = useSend();
  const text = useFileText(file);
  const [stored, setStored] = useState<string | null>(null);
  const read = useMemo(() => (text === null ? null : toldOf(text, file.name)), [text, file.name]);
  const told = read && 'told' in read ? read.told : null;
  const problem = read && 'problem' in read ? read.problem : null;
  const store = async () => {
    if (text === null) return;
    const made = await send('POST /api/looks', { body: { name: file.name, text } });
    if (made) setStored(made.name);
  };
  return (
    <section
      aria-label={`Look ${file.name}`}
      className="flex flex-col gap-2 border-l-4 border-signal pl-3 text-sm"
    >
      <FormError message={problem ?? error?.message} />
      {told && (
        <p role="status">
          <span className="font-semibold">{stored ?? told.title ?? file.name}</span>:{' '}
          {told.shaper && `curves of ${count(told.shaper.size)} points, then `}
          {told.dimensions === 3
            ? `a grid of ${count(told.size)} points each way`
            : `curves of ${count(told.size)} points`}
          .{' '}
          {stored === null
            ? 'Nothing is stored yet.'
            : 'It is imported: choose it as an effect in a timeline.'}
        </p>
      )}
      <div className="flex gap-2">
        {told && stored === null && (
          <Button look="main" disabled={busy} onClick={() => void store()}>
            Import
          </Button>
        )}
        <Button disabled={busy} onClick={onDiscard}>
          {stored === null ? 'Discard' : 'Close'}
        </Button>
      </div>
    </section>
  );
}
