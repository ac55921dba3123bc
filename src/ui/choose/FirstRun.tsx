'use client';
import { count } from '@/core/format';
import { fileName } from '@/core/media/fileName';
import { clsx } from 'clsx';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useMemo, useState, type ReactNode } from 'react';
import { formatLabel } from '@/core/media/format';
import { grades, type Grade } from '@/core/playback/grade';
import type { PlaybackScale } from '@/core/playback/slots';
import type { VolumeKind } from '@/core/storage/volumeFacts';
import { callApi } from '../api';
import { Button } from '../parts/Button';
import { Choice, ScaleChoice } from '../parts/Choice';
import { figure, FormError, NumberField, TextField } from '../parts/Field';
import { PickList } from '../parts/PickList';
import { Progress } from '../parts/Progress';
import { useEvents } from '../shell/events';
import { useSend } from '../useSend';
import type { VolumePage } from '../pages';

interface Known {
  readonly id: string;
  readonly name: string;
}

/** From a folder of clips to a decision map: folder, what was found, the job, measuring, the map. */
export function FirstRun({ volumes, rigId }: { volumes: readonly Known[]; rigId: string }) {
  const [volumeId, setVolumeId] = useState<string | null>(null);
  const page = useVolume(volumeId);
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const scanned = page !== null && page.volume.scan === null && page.volume.scannedAt !== null;
  const clips = useMemo(() => onePerFootage(page), [page]);
  const picked = chosen ?? new Set(clips.slice(0, mostCameras).map(({ id }) => id));
  const step = volumeId === null ? 1 : !scanned || clips.length === 0 ? 2 : 3;
  return (
    <div className="flex max-w-4xl flex-col gap-4">
      <h1>From your clips to a decision, in five steps</h1>
      <Step
        number={1}
        now={step}
        title={page ? `The folder: ${page.volume.name}` : 'Which folder holds the clips?'}
      >
        {volumeId === null && <FolderStep volumes={volumes} onDone={setVolumeId} />}
      </Step>
      <Step
        number={2}
        now={step}
        title={
          scanned
            ? `${count(clips.length)} ${clips.length === 1 ? 'clip' : 'different clips'} found`
            : 'What it contains'
        }
      >
        {step === 2 && page && !scanned && (
          <>
            <p className="text-sm text-muted">
              Reading every clip:{' '}
              {page.volume.scan
                ? `${count(page.volume.scan.done)} of ${count(page.volume.scan.total)}`
                : 'waiting for its turn'}
            </p>
            <Progress
              value={page.volume.scan?.done ?? 0}
              most={page.volume.scan?.total ?? 1}
              label="Scan"
              className="mt-2 max-w-md"
            />
          </>
        )}
        {step === 2 && page?.volume.scan?.error && <FormError message={page.volume.scan.error} />}
        {step === 2 && scanned && clips.length === 0 && (
          <p className="border-l-4 border-signal pl-3 text-sm">
            No clip in this folder can be played.{' '}
            <button type="button" className="underline" onClick={() => setVolumeId(null)}>
              Choose another folder
            </button>
            , or look under Media at what was found.
          </p>
        )}
        {scanned && clips.length > 0 && notPlayable(page) > 0 && (
          <p className="mb-2 text-sm text-muted">
            {notPlayable(page) === 1 ? '1 file' : `${count(notPlayable(page))} files`} of this folder cannot
            be played; Media says why.
          </p>
        )}
        {step === 3 && (
          <PickList
            label="One clip for each camera"
            items={clips.map(({ id, path, format }) => ({
              id,
              name: path,
              note: format ? formatLabel(format) : '',
            }))}
            chosen={picked}
            onChange={setChosen}
            empty=""
          />
        )}
      </Step>
      <Step number={3} now={step} title="The job">
        {step === 3 && volumeId && page && (
          <JobStep page={page} rigId={rigId} clips={clips.filter(({ id }) => picked.has(id))} />
        )}
      </Step>
      <Step number={4} now={step} title="Measuring, three cold runs of each">
        {null}
      </Step>
      <Step number={5} now={step} title="Your decision map">
        {null}
      </Step>
    </div>
  );
}

const mostCameras = 8;

/** Files that the scan found and that are not among the clips that can be played. */
function notPlayable({ volume: { lastScan }, clips }: VolumePage): number {
  return lastScan
    ? Math.max(0, lastScan.added + lastScan.changed + lastScan.moved + lastScan.same - clips.length)
    : 0;
}

/** One clip of each footage, the one with the most data first: what stands for a camera. */
function onePerFootage(page: VolumePage | null) {
  const best = new Map<string, VolumePage['clips'][number]>();
  for (const clip of page?.clips ?? []) {
    if ((clip.frames ?? 0) < 2 || !clip.format || clip.contentHash === null) continue;
    const key = clip.footageId ?? clip.id;
    const known = best.get(key);
    if (!known || (clip.meanBitsPerSecond ?? 0) > (known.meanBitsPerSecond ?? 0)) best.set(key, clip);
  }
  return [...best.values()].sort((a, b) => (b.meanBitsPerSecond ?? 0) - (a.meanBitsPerSecond ?? 0));
}

function Step({
  number,
  now,
  title,
  children,
}: {
  number: number;
  now: number;
  title: string;
  children: ReactNode;
}) {
  return (
    <section
      aria-label={`Step ${number}`}
      aria-current={number === now ? 'step' : undefined}
      className={clsx('border-l-4 pl-4', number === now ? 'border-signal' : 'border-edge')}
    >
      <h2 className={clsx(number > now && 'text-muted')}>
        <span className="figure mr-2">{number}</span>
        {title}
        {number < now && <span className="ml-2 text-sm font-normal text-muted">done</span>}
      </h2>
      {children && <div className="mt-2">{children}</div>}
    </section>
  );
}

/** A volume's page, kept fresh while it is scanned. */
function useVolume(id: string | null): VolumePage | null {
  const [page, setPage] = useState<VolumePage | null>(null);
  const load = useCallback(() => {
    if (id !== null) void callApi('GET /api/volumes/{id}', { ids: { id } }).then(setPage, () => undefined);
  }, [id]);
  useEffect(load, [load]);
  useEvents((event) => {
    if (
      (event.type === 'volume' && event.volumeId === id) ||
      event.type === 'clips' ||
      event.type === 'connection'
    )
      load();
  });
  return id === null ? null : page;
}

function FolderStep({ volumes, onDone }: { volumes: readonly Known[]; onDone: (id: string) => void }) {
  const [path, setPath] = useState('');
  const [name, setName] = useState('');
  const [kind, setKind] = useState<VolumeKind>('internal');
  const { busy, error, send } = useSend();
  const add = () => {
    void send('POST /api/volumes', {
      body: {
        path,
        kind,
        name: name.trim() || (path.split('/').filter(Boolean).at(-1) ?? ''),
        price: null,
        standIn: null,
      },
    }).then((made) => {
      if (made) onDone(made.id);
    });
  };
  return (
    <form
      aria-label="Folder"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        add();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <TextField
          label="Folder on this host"
          value={path}
          onChange={setPath}
          invalid={error?.field === 'path'}
          placeholder="/media/shuttle/tidewrack"
          figures
          className="min-w-72 flex-1"
        />
        <TextField
          label="Name of the volume"
          value={name}
          onChange={setName}
          invalid={error?.field === 'name'}
          placeholder="as the folder"
          className="w-48"
        />
        <Choice
          label="Kind"
          value={kind}
          onChange={setKind}
          options={[
            ['internal', 'Internal'],
            ['external', 'External'],
            ['network', 'Network'],
            ['card', 'Card'],
          ]}
        />
        <Button look="main" type="submit" disabled={busy || path.trim() === ''}>
          Add and scan
        </Button>
      </div>
      <p className="text-sm text-muted">Adding and scanning only read.</p>
      <FormError message={error?.message} />
      {volumes.length > 0 && (
        <p className="flex flex-wrap items-center gap-2 text-sm">
          Or a volume that is here already:{' '}
          {volumes.map((volume) => (
            <Button key={volume.id} className="h-8" onClick={() => onDone(volume.id)}>
              {volume.name}
            </Button>
          ))}
        </p>
      )}
    </form>
  );
}

function JobStep({ page, rigId, clips }: { page: VolumePage; rigId: string; clips: VolumePage['clips'] }) {
  const router = useRouter();
  const [name, setName] = useState('');
  const [hours, setHours] = useState('2');
  const [days, setDays] = useState('10');
  const [scale, setScale] = useState<PlaybackScale>('full');
  const [grade, setGrade] = useState<Grade>('workable');
  const { busy, error, send } = useSend();
  const measure = async () => {
    const cameras = clips.map(({ id, path }) => ({
      clipId: id,
      name: fileName(path)
        .replace(/\.[^.]+$/, '')
        .slice(0, 80),
      hoursPerDay: figure(hours),
    }));
    const made = await send('POST /api/briefs', {
      body: {
        name: name.trim() || page.volume.name,
        question: `Does this footage play from ${page.volume.name}, and what would do better?`,
        cameras,
        days: figure(days),
        scale,
        grade,
        places: [{ rigId, volumeId: page.volume.id, price: page.volume.price }],
      },
    });
    if (!made) return;
    // Cells that cannot be measured say so on the map.
    await send('POST /api/briefs/{id}/measure', { ids: { id: made.id }, body: { cells: null } });
    router.push(`/choose/${made.id}`);
  };
  return (
    <form
      aria-label="Job"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void measure();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <TextField
          label="Job"
          value={name}
          onChange={setName}
          placeholder={page.volume.name}
          className="w-56"
        />
        <NumberField label="Each camera, a day" unit="h" value={hours} onChange={setHours} className="w-36" />
        <NumberField label="Shooting days" value={days} onChange={setDays} />
        <ScaleChoice value={scale} onChange={setScale} />
        <Choice
          label="Grade required"
          value={grade}
          onChange={setGrade}
          options={grades.slice(0, 3).map((one) => [one, one] as const)}
        />
        <Button look="main" type="submit" disabled={busy || clips.length === 0}>
          Measure {count(clips.length)} {clips.length === 1 ? 'camera' : 'cameras'}
        </Button>
      </div>
      <FormError message={error?.message} />
    </form>
  );
}
