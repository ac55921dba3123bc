'use client';
import { quantity } from '@/core/format';
import { useState } from 'react';
import type { Gesture } from '@/core/scrub/gesture';
import { gestureInput } from '@/core/asked/timelines';
import { Form, FormProblems, FormTextField } from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';

/** Names a recorded movement of the playhead, so that it can be replayed on any clip, timeline and volume. */
export function SaveGesture({ gesture, onDone }: { gesture: Gesture; onDone: () => void }) {
  const { slots, timesMs, targets } = gesture;
  const [kept, setKept] = useState(false);
  const saving = useRequestForm('POST /api/gestures', {
    schema: gestureInput,
    defaults: { name: '' },
    bodyOf: ({ name }) => ({ name, slots, timesMs, targets }),
  });
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
    <Form
      of={saving}
      label="Save the recorded gesture"
      className="flex flex-wrap items-start gap-3 border-l-4 border-signal bg-surface p-3"
      onSubmit={async () => {
        if (await saving.send()) setKept(true);
      }}
    >
      <FormTextField
        name="name"
        label={`Name of the gesture: ${targets.length} positions in ${quantity((timesMs.at(-1) ?? 0) / 1000, 's', 1)}`}
        className="min-w-64"
      />
      <Button look="main" type="submit" disabled={saving.busy} className="mt-5">
        Save
      </Button>
      <Button look="quiet" onClick={onDone} className="mt-5">
        Discard
      </Button>
      <FormProblems />
    </Form>
  );
}
