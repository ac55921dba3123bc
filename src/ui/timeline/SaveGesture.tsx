'use client';
import { quantity } from '@/core/format';
import { useState } from 'react';
import type { Gesture } from '@/core/scrub/gesture';
import { Button } from '../parts/Button';
import { FormError, TextField } from '../parts/Field';
import { useSend } from '../useSend';

/** Names a recorded movement of the playhead, so that it can be replayed on any clip, timeline and volume. */
export function SaveGesture({ gesture, onDone }: { gesture: Gesture; onDone: () => void }) {
  const [name, setName] = useState('');
  const [kept, setKept] = useState(false);
  const { busy, error, send } = useSend();
  const { slots, timesMs, targets } = gesture;
  const keep = async () => {
    if (await send('POST /api/gestures', { body: { name, slots, timesMs, targets } })) setKept(true);
  };
  if (kept)
    return (
      <p role="status" className="border-l-4 border-signal bg-surface p-3 text-sm">
        The gesture is saved. Replay it under Scrub and load.{' '}
        <button type="button" className="underline" onClick={onDone}>
          Close
        </button>
      </p>
    );
  return (
    <form
      aria-label="Save the recorded gesture"
      className="flex flex-wrap items-end gap-3 border-l-4 border-signal bg-surface p-3"
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <TextField
        label={`Name of the gesture: ${targets.length} positions in ${quantity((timesMs.at(-1) ?? 0) / 1000, 's', 1)}`}
        value={name}
        onChange={setName}
        className="min-w-64"
        invalid={error?.field === 'name'}
      />
      <Button look="main" type="submit" disabled={busy}>
        Save
      </Button>
      <Button look="quiet" onClick={onDone}>
        Discard
      </Button>
      <FormError message={error?.message} />
    </form>
  );
}
