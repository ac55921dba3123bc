'use client';
import { useState } from 'react';
import type { VolumeKind } from '@/db/schema';
import { ApiError, callApi } from '../api';
import { Button } from '../parts/Button';
import { Choice } from '../parts/Choice';

const input = 'h-9 w-full border border-edge bg-ground px-2 text-sm aria-invalid:border-signal-text';

/** Adds a folder of this host. What was typed stays when it is refused. */
export function AddVolume({ onDone }: { onDone: () => void }) {
  const [name, setName] = useState('');
  const [path, setPath] = useState('');
  const [kind, setKind] = useState<VolumeKind>('internal');
  const [error, setError] = useState<ApiError | null>(null);
  const [busy, setBusy] = useState(false);
  const add = () => {
    setBusy(true);
    setError(null);
    callApi('/api/volumes', 'POST', { name, kind, path })
      .then(onDone, (failure: unknown) => setError(failure instanceof ApiError ? failure : new ApiError(String(failure), null)))
      .finally(() => setBusy(false));
  };
  return (
    <form aria-label="Add a volume" className="flex flex-col gap-3 border bg-surface p-4" onSubmit={(event) => { event.preventDefault(); add(); }}>
      <div className="flex flex-wrap items-end gap-4">
        <label className="w-64"><span className="mb-1 block text-xs text-muted">Name</span>
          <input value={name} onChange={(event) => setName(event.target.value)} aria-invalid={error?.field === 'name'} placeholder="Shuttle SSD" className={input} /></label>
        <label className="min-w-72 flex-1"><span className="mb-1 block text-xs text-muted">Folder on this host</span>
          <input value={path} onChange={(event) => setPath(event.target.value)} aria-invalid={error?.field === 'path'} placeholder="/media/shuttle/tidewrack" spellCheck={false} className={`figure ${input}`} /></label>
        <Choice label="Kind" value={kind} onChange={setKind} options={[['internal', 'Internal'], ['external', 'External'], ['network', 'Network'], ['card', 'Card']]} />
      </div>
      {error && <p role="alert" className="border-l-4 border-signal pl-3 text-sm">{error.message}</p>}
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={busy}>Add and scan</Button>
        <Button onClick={onDone}>Close</Button>
        <span className="self-center text-sm text-muted">Navvy reads in this folder and never writes there.</span>
      </div>
    </form>
  );
}
