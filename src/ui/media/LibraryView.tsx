'use client';
import type { ClipAction } from '@/core/asked/library';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo, useState } from 'react';
import type { LibraryClip } from '@/server/media';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { FormError } from '../parts/Field';
import { useCommands } from '../shell/commands';
import { useLive } from '../shell/useLive';
import { DataTable } from '../table/DataTable';
import { useSend } from '../useSend';
import { clipColumns, hiddenColumns } from './clipColumns';
import { UploadClip } from './UploadClip';

export interface LibraryVolume {
  readonly id: string;
  readonly name: string;
  readonly simulated: boolean;
  readonly writable: boolean;
}

const states = [
  ['all', 'All clips'],
  ['ready', 'Ready'],
  ['warned', 'With warnings'],
  ['unplayable', 'Cannot be decoded'],
  ['missing', 'Missing'],
] as const;
type State = (typeof states)[number][0];

const keeps: Record<State, (clip: LibraryClip) => boolean> = {
  all: () => true,
  ready: ({ status }) => status === 'ready',
  warned: ({ status, warnings }) => status === 'ready' && warnings.length > 0,
  unplayable: ({ status }) => status === 'unplayable',
  missing: ({ status }) => status === 'missing',
};

/** All clips of all volumes, and what can be done with many at once. */
export function LibraryView({
  clips: initial,
  volumes,
}: {
  clips: LibraryClip[];
  volumes: readonly LibraryVolume[];
}) {
  const [clips, reload] = useLive(
    initial,
    'GET /api/clips',
    (event) => (event.type === 'volume' && event.finished) || event.type === 'clips',
  );
  const [state, setState] = useState<State>('all');
  const [volumeId, setVolumeId] = useState('');
  const [uploading, setUploading] = useState(false);
  const rows = useMemo(
    () => clips.filter((clip) => keeps[state](clip) && (volumeId === '' || clip.volumeId === volumeId)),
    [clips, state, volumeId],
  );
  useCommands(
    useMemo(
      () => [
        { id: 'upload', label: 'Upload a clip', group: 'Media', key: 'u', run: () => setUploading(true) },
      ],
      [],
    ),
  );
  const problems = clips.filter(({ status }) => status === 'unplayable').length;
  const list = 'h-8 border border-edge bg-ground px-2 text-sm';
  return (
    <div className="flex flex-col gap-4">
      <div className="flex items-start gap-3">
        <h1 className="mr-auto">
          What each clip is
          {problems > 0 && (
            <button
              type="button"
              className="ml-4 text-sm font-normal text-signal-text underline underline-offset-4"
              onClick={() => setState('unplayable')}
            >
              {problems} cannot be decoded
            </button>
          )}
        </h1>
        <ScanAll volumes={volumes} />
        <Button onClick={() => setUploading(!uploading)} aria-expanded={uploading}>
          Upload a clip
        </Button>
      </div>
      {uploading && (
        <UploadClip
          volumes={volumes}
          onDone={() => {
            setUploading(false);
            void reload();
          }}
        />
      )}
      <DataTable
        label="Clips"
        rows={rows}
        columns={clipColumns}
        rowId={(clip) => clip.id}
        initialSort={[{ id: 'path', desc: false }]}
        hidden={hiddenColumns}
        fileName="navvy-clips"
        filters={
          clips.length > 0 && (
            <>
              <select
                aria-label="State"
                value={state}
                onChange={(event) => setState(event.target.value as State)}
                className={list}
              >
                {states.map(([value, name]) => (
                  <option key={value} value={value}>
                    {name}
                  </option>
                ))}
              </select>
              <select
                aria-label="Volume"
                value={volumeId}
                onChange={(event) => setVolumeId(event.target.value)}
                className={`${list} max-w-52`}
              >
                <option value="">All volumes</option>
                {volumes.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
            </>
          )
        }
        actions={(chosen, clear) => (
          <ClipActions
            chosen={chosen}
            done={() => {
              clear();
              void reload();
            }}
          />
        )}
        empty={
          clips.length === 0 ? (
            <Empty
              title="No clips yet"
              action={
                <Link prefetch={false} className="underline" href="/storage">
                  Add a volume
                </Link>
              }
            >
              Clips appear when a volume is scanned. Each shows what it is: codec, depth, chroma, rate, data
              rate, and how its frames depend on each other.
            </Empty>
          ) : (
            <p className="border bg-surface p-6 text-center text-sm text-muted">
              No clip is so.{' '}
              <button
                type="button"
                className="underline"
                onClick={() => {
                  setState('all');
                  setVolumeId('');
                }}
              >
                Show all
              </button>
            </p>
          )
        }
      />
    </div>
  );
}

/** Looks through all volumes again. */
function ScanAll({ volumes }: { volumes: readonly LibraryVolume[] }) {
  const { busy, error, send } = useSend();
  const scan = async () => {
    for (const { id } of volumes) await send('POST /api/volumes/{id}/scan', { ids: { id } });
  };
  if (volumes.length === 0) return null;
  return (
    <>
      <FormError message={error?.message} />
      <Button
        disabled={busy}
        onClick={() => {
          void scan();
        }}
      >
        Scan all volumes
      </Button>
    </>
  );
}

/** What can be done with the clips that are chosen. */
function ClipActions({ chosen, done }: { chosen: LibraryClip[]; done: () => void }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const ids = chosen.map(({ id }) => id);
  const act = useCallback(
    async (action: ClipAction) => {
      if (await send('POST /api/clips/actions', { body: { action, clipIds: ids } })) done();
    },
    [send, ids, done],
  );
  const measure = async () => {
    if (await send('POST /api/trials', { body: { kind: 'decode-rate', clipIds: ids } }))
      router.push('/media/decode');
  };
  const support = async () => {
    if (await send('POST /api/trials', { body: { kind: 'decode-support', clipIds: ids } }))
      router.push('/media/support');
  };
  const ready = chosen.every(({ status }) => status === 'ready');
  const button = (name: string, run: () => void, disabled = false) => (
    <Button key={name} className="h-8 px-2 text-xs" disabled={busy || disabled} onClick={run}>
      {name}
    </Button>
  );
  return (
    <>
      {button(
        'Make renditions',
        () => router.push(`/media/renditions?clips=${ids.join(',')}`),
        !ready || ids.length > 500,
      )}
      {button(
        'Measure decode rates',
        () => {
          void measure();
        },
        !ready,
      )}
      {button(
        'Try decode devices',
        () => {
          void support();
        },
        !ready,
      )}
      {button(
        'Group as one footage',
        () => {
          void act('group');
        },
        chosen.length < 2,
      )}
      {button('Take out of footage', () => {
        void act('take-out');
      })}
      {chosen.some(({ footageHand }) => footageHand !== null) &&
        button('Group automatically', () => {
          void act('group-automatically');
        })}
      {chosen.every(({ status }) => status === 'missing') &&
        button('Forget missing', () => {
          void act('forget');
        })}
      <FormError message={error?.message} />
    </>
  );
}
