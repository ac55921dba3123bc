'use client';
import { RefreshCw, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import type { VolumeWithCounts } from '@/db/queries/volumes';
import { callApi } from '../api';
import { count, dateTime, size } from '../format';
import { Button } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { Empty } from '../parts/Empty';
import { Facts } from '../parts/Figure';
import { useEvents } from '../shell/events';
import { useLive } from '../shell/useLive';
import { AddVolume } from './AddVolume';

/** The places media is read from. */
export function VolumeList({ volumes: initial }: { volumes: VolumeWithCounts[] }) {
  const [volumes, reload] = useLive(initial, '/api/volumes', (event) => event.type === 'volume' && event.finished);
  const [adding, setAdding] = useState(volumes.length === 0);
  return (
    <div className="flex max-w-5xl flex-col gap-5">
      <div className="flex items-center gap-4">
        <h1>Where media is read from</h1>
        {!adding && <Button look="main" className="ml-auto" onClick={() => setAdding(true)}>Add a volume</Button>}
      </div>
      {adding && <AddVolume onDone={() => { setAdding(false); void reload(); }} />}
      {volumes.length === 0 && <Empty title="No volume yet">A volume is a folder on this host: a drive, a mounted store, a card. Navvy looks through it for media and reads trials from it. Give its folder above.</Empty>}
      {volumes.map((volume) => <VolumeCard key={volume.id} volume={volume} reload={reload} />)}
    </div>
  );
}

function VolumeCard({ volume, reload }: { volume: VolumeWithCounts; reload: () => Promise<void> }) {
  const [live, setLive] = useState<{ done: number; total: number } | null>(null);
  const [error, setError] = useState<string | null>(null);
  useEvents((event) => {
    if (event.type === 'volume' && event.volumeId === volume.id) setLive(event.finished ? null : event);
  });
  const scanning = live ?? (volume.scan && !volume.scan.error ? volume.scan : null);
  const { facts } = volume;
  const scan = () => {
    setError(null);
    callApi(`/api/volumes/${volume.id}/scan`, 'POST').then(reload, (failure: unknown) => setError(failure instanceof Error ? failure.message : String(failure)));
  };
  const problem = error ?? volume.scan?.error ?? null;
  return (
    <article aria-label={volume.name} className="border bg-surface p-4">
      <div className="flex items-center gap-3">
        <h2 className="min-w-0 truncate" title={volume.name}>{volume.name}</h2>
        <span className="text-sm text-muted">{volume.kind}</span>
        <Link prefetch={false} href="/media" className="text-sm underline decoration-edge underline-offset-4">{count(volume.clipCount)} {volume.clipCount === 1 ? 'clip' : 'clips'}</Link>
        {volume.problemCount > 0 && <span className="text-sm text-signal-text">{count(volume.problemCount)} with a problem</span>}
        <Button className="ml-auto" onClick={scan} disabled={scanning !== null}><RefreshCw aria-hidden className="size-4" />Scan</Button>
        <ConfirmButton label={`Remove ${volume.name}`} title={`Remove the volume ${volume.name}?`} consequence={`Navvy forgets it and its ${volume.clipCount} clips. The files and the trials made from them stay.`} verb="Remove" act={async () => { await callApi(`/api/volumes/${volume.id}`, 'DELETE'); await reload(); }}>
          <Trash2 aria-hidden className="size-4" />
        </ConfirmButton>
      </div>
      {scanning && (
        <div className="mt-2 flex items-center gap-3 text-sm" role="status">
          <progress value={scanning.done} max={Math.max(1, scanning.total)} aria-label="Scan" className="h-2 w-64 accent-(--signal)" />
          {scanning.total === 0 ? 'Looking for media' : `${count(scanning.done)} of ${count(scanning.total)} files`}
        </div>
      )}
      {problem && <p role="alert" className="mt-2 border-l-4 border-signal pl-3 text-sm">{problem}</p>}
      <div className="mt-3">
        <Facts rows={[
          ['Folder', <span key="path" className="figure break-all">{volume.path}</span>],
          ['File system', `${facts.fileSystem} on ${facts.device}${facts.rotational === null ? '' : facts.rotational ? ', rotating disk' : ', no rotating disk'}${facts.writable ? '' : ', read-only'}`],
          ['Space', `${size(facts.freeBytes)} free of ${size(facts.sizeBytes)}`],
          ['Scanned', volume.scannedAt ? dateTime(volume.scannedAt) : 'not yet'],
        ]} />
      </div>
    </article>
  );
}
