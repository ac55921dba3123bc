'use client';
import { count, megabytesPerSecond, size } from '@/core/format';
import { Gauge, RefreshCw, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { callApi } from '../api';
import { Button, LinkButton } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { Empty } from '../parts/Empty';
import { FormError } from '../parts/Field';
import { Progress } from '../parts/Progress';
import { Simulated } from '../parts/Simulated';
import { useEvents } from '../shell/events';
import { useLive } from '../shell/useLive';
import { useSend } from '../useSend';
import { AddVolume } from './AddVolume';
import { ratesOf, usableBytes, type VolumeRates } from './measured';
import type { StoragePage, VolumeWithCounts } from '../pages';

/** The places media is read from, each with how fast it is. */
export function VolumeList({ page }: { page: StoragePage }) {
  const [{ volumes, latest }, reload] = useLive(
    page,
    'GET /api/volumes',
    (event) =>
      (event.type === 'volume' && event.finished) ||
      (event.type === 'trial-status' && event.kind === 'throughput' && event.status === 'done'),
  );
  const [adding, setAdding] = useState(volumes.length === 0);
  return (
    <div className="flex max-w-6xl flex-col gap-4">
      <div className="flex items-center gap-4">
        <h1>Where media is read from</h1>
        {!adding && (
          <Button look="main" className="ml-auto" onClick={() => setAdding(true)}>
            Add a volume
          </Button>
        )}
      </div>
      {adding && (
        <AddVolume
          onDone={() => {
            setAdding(false);
            void reload();
          }}
        />
      )}
      {volumes.length === 0 && (
        <Empty title="No volume yet">
          A volume is a folder on this host: a drive, a mounted store, a card. Navvy looks through it for
          media, measures it, and reads trials from it. Give its folder above.
        </Empty>
      )}
      {volumes.length > 0 && (
        <div className="border bg-surface">
          {volumes.map((volume) => (
            <VolumeEntry
              key={volume.id}
              volume={volume}
              read={ratesOf(volume, latest, 'sequential-read')}
              write={ratesOf(volume, latest, 'sequential-write')}
              reload={reload}
            />
          ))}
        </div>
      )}
    </div>
  );
}

interface EntryProps {
  readonly volume: VolumeWithCounts;
  readonly read: VolumeRates | null;
  readonly write: VolumeRates | null;
  readonly reload: () => Promise<void>;
}

function VolumeEntry({ volume, read, write, reload }: EntryProps) {
  const { error, send } = useSend();
  const problem = error?.message ?? volume.scan?.error ?? null;
  const scan = useScan(volume);
  return (
    <article aria-label={volume.name} className="border-b px-4 py-3 last:border-b-0">
      <div className="flex items-center gap-4">
        <div className="min-w-0 flex-1">
          <div className="flex items-baseline gap-3">
            <h2 className="min-w-0 truncate" title={volume.name}>
              <Link
                prefetch={false}
                href={`/storage/volumes/${volume.id}`}
                className="underline decoration-edge underline-offset-4"
              >
                {volume.name}
              </Link>
            </h2>
            {volume.standIn && <Simulated model={volume.standIn} />}
          </div>
          <p className="truncate text-sm text-muted" title={volume.path}>
            {placeWords(volume)}
          </p>
        </div>
        <Rate name="Read" rates={read} />
        <Rate name="Write" rates={write} />
        <div className="w-24 text-sm">
          <Link prefetch={false} href="/media" className="underline decoration-edge underline-offset-4">
            {count(volume.clipCount)} {volume.clipCount === 1 ? 'clip' : 'clips'}
          </Link>
          {volume.problemCount > 0 && (
            <p className="text-signal-text">{count(volume.problemCount)} with a problem</p>
          )}
        </div>
        <LinkButton href={`/storage/volumes/${volume.id}#measure`}>
          <Gauge aria-hidden className="size-4" />
          Measure<span className="sr-only"> {volume.name}</span>
        </LinkButton>
        <Button
          onClick={() => {
            void send('POST /api/volumes/{id}/scan', { ids: { id: volume.id } }).then(reload);
          }}
          disabled={scan !== null}
        >
          <RefreshCw aria-hidden className="size-4" />
          Scan
        </Button>
        <ConfirmButton
          label={`Remove ${volume.name}`}
          title={`Remove the volume ${volume.name}?`}
          consequence={`Navvy forgets it and its ${volume.clipCount} clips. The files and the trials made from them stay.`}
          verb="Remove"
          act={async () => {
            await callApi('DELETE /api/volumes/{id}', { ids: { id: volume.id } });
            await reload();
          }}
        >
          <Trash2 aria-hidden className="size-4" />
        </ConfirmButton>
      </div>
      {scan && (
        <div className="mt-2 flex items-center gap-3 text-sm" role="status">
          <Progress value={scan.done} most={scan.total} label="Scan" className="w-64" />
          {scan.total === 0 ? 'Looking for media' : `${count(scan.done)} of ${count(scan.total)} files`}
        </div>
      )}
      <FormError message={problem} />
    </article>
  );
}

/** How far a running scan is, or null. */
function useScan(volume: VolumeWithCounts): { done: number; total: number } | null {
  const [live, setLive] = useState<{ done: number; total: number } | null>(null);
  useEvents((event) => {
    if (event.type === 'volume' && event.volumeId === volume.id) setLive(event.finished ? null : event);
  });
  return live ?? (volume.scan && !volume.scan.error ? volume.scan : null);
}

function placeWords({ kind, standIn, link, facts, path }: VolumeWithCounts): string {
  if (standIn)
    return `${kind}, ${link}, ${standIn.drives === 1 ? 'one drive' : `${standIn.drives} drives at level ${standIn.level}`}, ${size(usableBytes(standIn))} usable, over ${path}`;
  const place = facts.network ? `${facts.network.share} of ${facts.network.server}` : facts.device;
  return [
    kind,
    link,
    `${facts.fileSystem} on ${place}`,
    `${size(facts.freeBytes)} free of ${size(facts.sizeBytes)}${facts.writable ? '' : ', read-only'}`,
    path,
  ]
    .filter(Boolean)
    .join(', ');
}

/** The sustained rate, or that it is only forecast, or not known. */
function Rate({ name, rates }: { name: string; rates: VolumeRates | null }) {
  return (
    <dl className="w-32">
      <dt className="text-xs text-muted">{name}, sustained</dt>
      <dd className="figure text-base leading-snug">
        {rates ? megabytesPerSecond(rates.sustained) : <span className="text-muted">–</span>}
      </dd>
      <dd className="text-xs text-muted">
        {!rates ? (
          'not measured'
        ) : rates.from === 'forecast' ? (
          'forecast by its model'
        ) : rates.doubt ? (
          <span className="text-signal-text">measured, {rates.doubt}</span>
        ) : (
          'measured'
        )}
      </dd>
    </dl>
  );
}
