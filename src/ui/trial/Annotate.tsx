'use client';
import { useState } from 'react';
import { annotationInput } from '@/core/asked/library';
import type { Around } from '@/server/trials/around';
import { Form, FormCheck, FormProblems, FormTextField } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';

/** A note on a result, and whether it counts in comparisons and decisions. The result itself is never changed. */
export function Annotate({ trialId, annotation }: { trialId: string; annotation: Around['annotation'] }) {
  const [saved, setSaved] = useState(annotation);
  const noteOf = ({ note, excluding, excluded }: { note: string; excluding: boolean; excluded: string }) => ({
    note,
    excluded: excluding ? excluded : null,
  });
  const noting = useRequestForm('PUT /api/trials/{id}/note', {
    schema: annotationInput,
    defaults: {
      note: annotation?.note ?? '',
      excluding: annotation?.excluded != null,
      excluded: annotation?.excluded ?? '',
    },
    bodyOf: noteOf,
  });
  const typed = useTyped(noting);
  const next = noteOf(typed);
  const changed = next.note !== (saved?.note ?? '') || next.excluded !== (saved?.excluded ?? null);
  return (
    <details className="mt-3" open={saved !== null && (saved.note !== '' || saved.excluded !== null)}>
      <summary className="w-fit text-sm text-muted hover:text-ink">
        {saved?.excluded
          ? 'This result does not count'
          : saved?.note
            ? 'A note'
            : 'Note, or leave out of comparisons'}
      </summary>
      <Form
        of={noting}
        label="Note"
        className="mt-2 flex flex-wrap items-start gap-4 border bg-surface p-3"
        onSubmit={async () => {
          if (await noting.send({ ids: { id: trialId } })) setSaved(next);
        }}
      >
        <FormTextField name="note" label="Note" className="min-w-72 flex-1" />
        <FormCheck name="excluding" className="mt-5 h-9">
          Does not count
        </FormCheck>
        {typed.excluding && (
          <FormTextField name="excluded" label="Because" placeholder="the cable was loose" className="w-64" />
        )}
        <Button type="submit" disabled={!changed} className="mt-5">
          {changed ? 'Save' : 'Saved'}
        </Button>
        <FormProblems />
      </Form>
    </details>
  );
}
