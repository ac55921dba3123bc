'use client';
import { clockTime, megabytesPerSecond, size } from '@/core/format';
import { useEffect, useRef, useState, type SyntheticEvent } from 'react';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { Button } from '../parts/Button';
import { FormError, TextField } from '../parts/Field';
import { Progress } from '../parts/Progress';
import type { LibraryVolume } from './LibraryView';
import { addressOf } from '../api';
import { SelectField } from '../parts/Select';

interface Sent {
  readonly bytes: number;
  readonly total: number;
  readonly rate: number;
  readonly msLeft: number | null;
}

/** Brings a file from this computer onto a volume, and into the library. */
export function UploadClip({ volumes, onDone }: { volumes: readonly LibraryVolume[]; onDone: () => void }) {
  const writable = volumes.filter((volume) => volume.writable);
  const [volumeId, setVolumeId] = useState(writable[0]?.id ?? '');
  const [folder, setFolder] = useState('uploads');
  const [file, setFile] = useState<File | null>(null);
  const [sent, setSent] = useState<Sent | null>(null);
  const [error, setError] = useState<string | null>(null);
  const request = useRef<XMLHttpRequest | null>(null);
  useEffect(() => () => request.current?.abort(), []);
  const send = (event: SyntheticEvent) => {
    event.preventDefault();
    if (!file) {
      setError('Choose a file first.');
      return;
    }
    setError(null);
    // The one request of the interface whose way out must be watched: fetch does not tell.
    const call = new XMLHttpRequest();
    request.current = call;
    const left = new TimeLeftEstimator();
    const begun = performance.now();
    call.upload.onprogress = ({ loaded, total }) => {
      const now = performance.now();
      left.observe(loaded, now);
      setSent({
        bytes: loaded,
        total,
        rate: (loaded / Math.max(1, now - begun)) * 1000,
        msLeft: left.remainingMs(total),
      });
    };
    call.onload = () => {
      const { message } = JSON.parse(call.responseText || '{}') as { message?: string };
      setSent(null);
      if (call.status < 300) onDone();
      else setError(message ?? 'The upload failed. Try again.');
    };
    call.onerror = () => {
      setSent(null);
      setError('Navvy does not answer. What was sent so far is removed; try again.');
    };
    call.onabort = () => setSent(null);
    call.open(
      'POST',
      addressOf('POST /api/volumes/{id}/upload', {
        ids: { id: volumeId },
        query: { name: file.name, folder },
      }),
    );
    call.setRequestHeader('content-type', 'application/octet-stream');
    call.send(file);
  };
  if (writable.length === 0)
    return (
      <p className="border bg-surface p-4 text-sm text-muted">
        No volume can be written to. Add one in Storage first.
      </p>
    );
  return (
    <form aria-label="Upload a clip" onSubmit={send} className="flex flex-col gap-3 border bg-surface p-4">
      <div className="flex flex-wrap items-end gap-4">
        <label>
          <span className="mb-1 block text-xs text-muted">File</span>
          <input
            type="file"
            aria-label="File"
            onChange={(event) => setFile(event.target.files?.[0] ?? null)}
            className="h-9 w-80 text-sm file:mr-3 file:h-9 file:border file:border-edge file:bg-raised file:px-3"
          />
        </label>
        <SelectField
          label="To volume"
          value={volumeId}
          onChange={setVolumeId}
          options={writable.map(({ id, name, simulated }) => [id, simulated ? `${name} (simulated)` : name])}
          className="w-64"
        />
        <TextField label="Folder" value={folder} onChange={setFolder} className="w-40" />
        {sent ? (
          <Button onClick={() => request.current?.abort()}>Cancel</Button>
        ) : (
          <Button look="main" type="submit">
            Upload
          </Button>
        )}
      </div>
      {sent && (
        <div>
          <Progress value={sent.bytes} most={sent.total} label="Upload" />
          <p role="status" className="mt-1 text-sm text-muted">
            {size(sent.bytes)} of {size(sent.total)}, {megabytesPerSecond(sent.rate)}
            {sent.msLeft !== null && `, ${clockTime(sent.msLeft)} left`}
          </p>
        </div>
      )}
      <FormError message={error} />
    </form>
  );
}
