'use client';
import { useState } from 'react';
import type { Around } from '@/server/trials/around';
import { ApiError, callApi } from '../api';
import { Button } from '../parts/Button';
import { FormError, TextField } from '../parts/Field';
import { CheckField } from '../parts/Checkbox';

/** A note on a result, and whether it counts in comparisons and decisions. The result itself is never changed. */
export function Annotate({ trialId, annotation }: { trialId: string; annotation: Around['annotation'] }) {
  const [saved, setSaved] = useState(annotation);
  const [note, setNote] = useState(annotation?.note ?? '');
  const [excluding, setExcluding] = useState(annotation?.excluded != null);
  const [reason, setReason] = useState(annotation?.excluded ?? '');
  const [error, setError] = useState<ApiError | null>(null);
  const next = { note, excluded: excluding ? reason : null };
  const changed = next.note !== (saved?.note ?? '') || next.excluded !== (saved?.excluded ?? null);
  const save = () => {
    setError(null);
    callApi('PUT /api/trials/{id}/note', { ids: { id: trialId }, body: next }).then(
      () => setSaved(next),
      (failure: unknown) =>
        setError(failure instanceof ApiError ? failure : new ApiError(String(failure), null)),
    );
  };
  return (
    <details className="mt-3" open={saved !== null && (saved.note !== '' || saved.excluded !== null)}>
      <summary className="w-fit text-sm text-muted hover:text-ink">
        {saved?.excluded
          ? 'This result does not count'
          : saved?.note
            ? 'A note'
            : 'Note, or leave out of comparisons'}
      </summary>
      <form
        aria-label="Note"
        className="mt-2 flex flex-wrap items-end gap-4 border bg-surface p-3"
        onSubmit={(event) => {
          event.preventDefault();
          save();
        }}
      >
        <TextField label="Note" value={note} onChange={setNote} className="min-w-72 flex-1" />
        <CheckField checked={excluding} onChange={setExcluding}>
          Does not count
        </CheckField>
        {excluding && (
          <TextField
            label="Because"
            value={reason}
            onChange={setReason}
            invalid={error?.field === 'excluded'}
            placeholder="the cable was loose"
            className="w-64"
          />
        )}
        <Button type="submit" disabled={!changed}>
          {changed ? 'Save' : 'Saved'}
        </Button>
        <FormError message={error?.message} />
      </form>
    </details>
  );
}
