'use client';
import type { ClipAction } from '@/core/asked/library';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo, useState } from 'react';
import type { LibraryPage, LibraryQuery, LibraryRow } from '@/server/library/clipList';
import { count } from '@/core/format';
import { addressOf, callApi } from '../api';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { FormError } from '../parts/Field';
import { useCommands } from '../keys/commands';
import { Select } from '../parts/Select';
import { DataTable } from '../table/DataTable';
import { SearchField } from '../table/SearchField';
import { useNarrowed } from '../table/useNarrowed';
import { useSend } from '../useSend';
import { clipColumns, hiddenColumns, type ClipLine } from './clipColumns';
import { UploadClip } from './UploadClip';

export interface LibraryVolume {
  readonly id: string;
  readonly name: string;
  readonly simulated: boolean;
  readonly writable: boolean;
}

const states = [
  ['', 'All clips'],
  ['ready', 'Ready'],
  ['warned', 'With warnings'],
  ['unplayable', 'Cannot be decoded'],
  ['missing', 'Missing'],
] as const;

/** All rows that are asked for, in pieces. */
async function allRows(query: LibraryQuery, total: number): Promise<LibraryRow[]> {
  const pages = Array.from({ length: Math.ceil(total / inPieces) }, (_, index) => String(index + 1));
  const all: LibraryRow[] = [];
  for (const number of pages)
    all.push(
      ...(await callApi('GET /api/clips', { query: { ...query, page: number, size: String(inPieces) } }))
        .rows,
    );
  return all;
}

const foldedUnder = ({ others = [] }: ClipLine): readonly ClipLine[] => others;
/** Rows that are asked for at once to choose them all. */
const inPieces = 500;

/** All footage of all volumes with its files, and what can be done with many at once. */
export function LibraryView({
  first,
  asked: askedFirst,
  volumes,
}: {
  first: LibraryPage;
  asked: LibraryQuery;
  volumes: readonly LibraryVolume[];
}) {
  const { page, isAnswer, asked, query, reload, narrow, clear, turnTo } = useNarrowed<
    'GET /api/clips',
    LibraryQuery
  >({
    route: 'GET /api/clips',
    first,
    asked: askedFirst,
    linked: true,
    concerns: (event) => (event.type === 'volume' && event.finished) || event.type === 'clips',
  });
  const [uploading, setUploading] = useState(false);
  useUploadKey(setUploading);
  const { total, known, unplayable, rows } = page;
  const sorting = [{ id: asked.sort || 'path', desc: asked.order === 'desc' }];
  return (
    <div className="flex flex-col gap-4">
      <div className="flex items-start gap-3">
        <Answer unplayable={unplayable} onShow={() => narrow({ state: 'unplayable' })} />
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
      <DataTable<ClipLine>
        label="Clips"
        rows={rows as LibraryRow[]}
        columns={clipColumns}
        rowId={(clip) => clip.id}
        folded={foldedUnder}
        hidden={hiddenColumns}
        fileName="navvy-clips"
        filters={known > 0 && <Filters asked={asked} narrow={narrow} volumes={volumes} page={page} />}
        paging={{
          total,
          page: page.page,
          size: page.size,
          isAnswer,
          onPage: turnTo,
          csvHref: addressOf('GET /api/clips', { query: { ...query, page: undefined, format: 'csv' } }),
          sorting,
          onSort: ([by]) => narrow({ sort: by?.id ?? '', order: by?.desc ? 'desc' : '' }),
          all: () => allRows(query, total),
        }}
        actions={(chosen, done) => (
          <ClipActions
            chosen={chosen}
            done={() => {
              done();
              void reload();
            }}
          />
        )}
        empty={<NoClips known={known} clear={clear} />}
      />
    </div>
  );
}

function useUploadKey(setUploading: (on: boolean) => void): void {
  useCommands(
    useMemo(
      () => [
        { id: 'upload', label: 'Upload a clip', group: 'Media', key: 'u', run: () => setUploading(true) },
      ],
      [setUploading],
    ),
  );
}

/** What the page tells, and what of it is wrong. */
function Answer({ unplayable, onShow }: { unplayable: number; onShow: () => void }) {
  return (
    <h1 className="mr-auto">
      What each clip is
      {unplayable > 0 && (
        <button
          type="button"
          className="ml-4 text-sm font-normal text-signal-text underline underline-offset-4"
          onClick={onShow}
        >
          {count(unplayable)} cannot be decoded
        </button>
      )}
    </h1>
  );
}

/** What narrows the list, and how much is left of it. */
function Filters({
  asked,
  narrow,
  volumes,
  page: { total, clips },
}: {
  asked: LibraryQuery;
  narrow: (change: LibraryQuery) => void;
  volumes: readonly LibraryVolume[];
  page: LibraryPage;
}) {
  return (
    <>
      <SearchField
        label="Filter Clips"
        placeholder="Name, codec, raster, notes"
        value={asked.text ?? ''}
        onChange={(text) => narrow({ text })}
      />
      <Select
        label="State"
        value={asked.state ?? ''}
        onChange={(state) => narrow({ state })}
        options={states}
        low
      />
      <Select
        label="Volume"
        value={asked.volume ?? ''}
        onChange={(volume) => narrow({ volume })}
        options={[['', 'All volumes'], ...volumes.map(({ id, name }) => [id, name] as const)]}
        low
        className="max-w-52"
      />
      <span role="status" className="text-sm text-muted">
        {`${count(total)} ${total === 1 ? 'row' : 'rows'}, ${count(clips)} ${clips === 1 ? 'file' : 'files'}`}
      </span>
    </>
  );
}

/** In place of rows: there are no clips yet, or none that was asked for. */
function NoClips({ known, clear }: { known: number; clear: () => void }) {
  return known === 0 ? (
    <Empty
      title="No clips yet"
      action={
        <Link prefetch={false} className="underline" href="/storage">
          Add a volume
        </Link>
      }
    >
      Clips appear when a volume is scanned. Each shows what it is: codec, depth, chroma, rate, data rate, and
      how its frames depend on each other.
    </Empty>
  ) : (
    <p className="border bg-surface p-6 text-center text-sm text-muted">
      No clip matches.{' '}
      <button type="button" className="underline" onClick={clear}>
        Show all
      </button>
    </p>
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
function ClipActions({ chosen, done }: { chosen: ClipLine[]; done: () => void }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const ids = chosen.map(({ id }) => id);
  const act = useCallback(
    async (action: ClipAction, clipIds: readonly string[]) => {
      if (await send('POST /api/clips/actions', { body: { action, clipIds: [...clipIds] } })) done();
    },
    [send, done],
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
  // Footage is grouped with all that is folded under it.
  const whole = chosen.flatMap(({ id, others = [] }) => [id, ...others.map((other) => other.id)]);
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
        'Test decode devices',
        () => {
          void support();
        },
        !ready,
      )}
      {button(
        'Group as one footage',
        () => {
          void act('group', whole);
        },
        chosen.length < 2,
      )}
      {button('Remove from footage', () => {
        void act('take-out', ids);
      })}
      {chosen.some(({ footageHand, others = [] }) =>
        [footageHand, ...others.map((other) => other.footageHand)].some((hand) => hand !== null),
      ) &&
        button('Group automatically', () => {
          void act('group-automatically', whole);
        })}
      {chosen.every(({ status, others = [] }) =>
        [status, ...others.map((other) => other.status)].every((state) => state === 'missing'),
      ) &&
        button('Remove missing', () => {
          void act('forget', whole);
        })}
      <FormError message={error?.message} />
    </>
  );
}
