'use client';
import { clockTime, megabytesPerSecond, size } from '@/core/format';
import { useEffect, useRef, useState } from 'react';
import { uploadInput } from '@/core/asked/library';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { addressOf, sendFile, type Sent } from '../api';
import { Form, FormFile, FormProblems, FormSelect, FormTextField } from '../form/Form';
import { useAskedForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { Progress } from '../parts/Progress';
import type { LibraryVolume } from './LibraryView';

interface OnItsWay extends Sent {
  readonly rate: number;
  readonly msLeft: number | null;
}

interface Typed {
  readonly file: File | null;
  readonly volumeId: string;
  readonly folder: string;
}

/** Brings a file from this computer onto a volume, and into the library. */
export function UploadClip({ volumes, onDone }: { volumes: readonly LibraryVolume[]; onDone: () => void }) {
  const writable = volumes.filter((volume) => volume.writable);
  const { sent, upload, stop } = useUpload();
  const asking = useAskedForm({
    schema: uploadInput,
    defaults: { file: null, volumeId: writable[0]?.id ?? '', folder: 'uploads' },
    bodyOf: ({ file, ...to }: Typed) => ({ file: file?.name ?? '', ...to }),
  });
  if (writable.length === 0)
    return (
      <p className="border bg-surface p-4 text-sm text-muted">
        No volume can be written to. Add one in Storage first.
      </p>
    );
  const send = async () => {
    const isThere = await asking.ask(({ file: name, volumeId, folder }) =>
      upload(
        addressOf('POST /api/volumes/{id}/upload', { ids: { id: volumeId }, query: { name, folder } }),
        asking.form.getValues('file'),
      ),
    );
    if (isThere) onDone();
  };
  return (
    <Form of={asking} label="Upload a clip" onSubmit={send}>
      <div className="flex flex-wrap items-start gap-4">
        <FormFile name="file" label="File" className="w-80" />
        <FormSelect
          name="volumeId"
          label="To volume"
          options={writable.map(({ id, name, simulated }) => [id, simulated ? `${name} (simulated)` : name])}
          className="w-64"
        />
        <FormTextField name="folder" label="Folder" className="w-40" />
        {sent ? (
          <Button className="mt-5" onClick={stop}>
            Cancel
          </Button>
        ) : (
          <Button look="main" type="submit" className="mt-5" disabled={asking.busy}>
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
      <FormProblems />
    </Form>
  );
}

/** Sends a file and says how far it is; what is on its way stops with the page. */
function useUpload() {
  const [sent, setSent] = useState<OnItsWay | null>(null);
  const stopping = useRef<AbortController | null>(null);
  useEffect(() => () => stopping.current?.abort(), []);
  const upload = async (address: string, file: File | null): Promise<boolean> => {
    if (!file) return false;
    const left = new TimeLeftEstimator();
    const begun = performance.now();
    stopping.current = new AbortController();
    const note = ({ bytes, total }: Sent) => {
      const now = performance.now();
      left.observe(bytes, now);
      const rate = (bytes / Math.max(1, now - begun)) * 1000;
      setSent({ bytes, total, rate, msLeft: left.remainingMs(total) });
    };
    return sendFile(address, file, note, stopping.current.signal).finally(() => setSent(null));
  };
  return { sent, upload, stop: () => stopping.current?.abort() };
}
