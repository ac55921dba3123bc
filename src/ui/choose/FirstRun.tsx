'use client';
import { briefInput } from '@/core/asked/briefs';
import { volumeInput } from '@/core/asked/volumes';
import { count } from '@/core/format';
import { fileName } from '@/core/media/fileName';
import { clsx } from 'clsx';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useMemo, useState, type ReactNode } from 'react';
import { formatLabel } from '@/core/media/format';
import type { Grade } from '@/core/playback/grade';
import type { PlaybackScale } from '@/core/playback/slots';
import type { VolumeKind } from '@/core/storage/volumeFacts';
import { callApi } from '../api';
import { Form, FormChoice, FormNumberField, FormProblems, FormTextField } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { requiredGradeOptions, scaleOptions, volumeKindOptions } from '../parts/Choice';
import { figure, FormError } from '../parts/Field';
import { PickList } from '../parts/PickList';
import { Progress } from '../parts/Progress';
import { useEvents } from '../shell/events';
import { useSend } from '../useSend';
import type { VolumePage } from '../pages';

interface Known {
  readonly id: string;
  readonly name: string;
}

const isScanned = (page: VolumePage | null): boolean =>
  page !== null && page.volume.scan === null && page.volume.scannedAt !== null;

/** What the folder holds: how far it is read, what stood in the way, what cannot be played. @param again to choose another folder */
function Found({
  page,
  step,
  clips,
  again,
}: {
  page: VolumePage | null;
  step: number;
  clips: number;
  again: () => void;
}) {
  if (page === null) return null;
  const scanned = isScanned(page);
  return (
    <>
      {step === 2 && !scanned && (
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
      {step === 2 && page.volume.scan?.error && <FormError message={page.volume.scan.error} />}
      {step === 2 && scanned && clips === 0 && (
        <p className="border-l-4 border-signal pl-3 text-sm">
          No clip in this folder can be played.{' '}
          <button type="button" className="underline" onClick={again}>
            Choose another folder
          </button>
          , or look under Media at what was found.
        </p>
      )}
      {scanned && clips > 0 && notPlayable(page) > 0 && (
        <p className="mb-2 text-sm text-muted">
          {notPlayable(page) === 1 ? '1 file' : `${count(notPlayable(page))} files`} of this folder cannot be
          played; Media says why.
        </p>
      )}
    </>
  );
}

/** From a folder of clips to a decision map: folder, what was found, the job, measuring, the map. */
export function FirstRun({ volumes, rigId }: { volumes: readonly Known[]; rigId: string }) {
  const [volumeId, setVolumeId] = useState<string | null>(null);
  const page = useVolume(volumeId);
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const scanned = isScanned(page);
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
        <Found page={page} step={step} clips={clips.length} again={() => setVolumeId(null)} />
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

/** A folder as it is typed. */
interface FolderTyped extends Record<'path' | 'name', string> {
  readonly kind: VolumeKind;
}

function FolderStep({ volumes, onDone }: { volumes: readonly Known[]; onDone: (id: string) => void }) {
  const adding = useRequestForm<'POST /api/volumes', FolderTyped>('POST /api/volumes', {
    schema: volumeInput,
    defaults: { path: '', name: '', kind: 'internal' },
    bodyOf: ({ path, name, kind }) => ({
      path,
      kind,
      name: name.trim() || (path.split('/').filter(Boolean).at(-1) ?? 'Volume'),
      price: null,
      standIn: null,
    }),
  });
  const { path } = useTyped(adding);
  return (
    <Form
      of={adding}
      label="Folder"
      className="flex flex-col gap-3"
      onSubmit={async () => {
        const made = await adding.send();
        if (made) onDone(made.id);
      }}
    >
      <div className="flex flex-wrap items-start gap-4">
        <FormTextField
          name="path"
          label="Folder on this host"
          placeholder="/media/shuttle/tidewrack"
          figures
          className="min-w-72 flex-1"
        />
        <FormTextField name="name" label="Name of the volume" placeholder="as the folder" className="w-48" />
        <FormChoice name="kind" label="Kind" options={volumeKindOptions} />
        <Button look="main" type="submit" className="mt-5" disabled={adding.busy || path.trim() === ''}>
          Add and scan
        </Button>
      </div>
      <p className="text-sm text-muted">Adding and scanning only read.</p>
      <FormProblems />
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
    </Form>
  );
}

/** A job as it is typed: figures are text. */
interface JobTyped extends Record<'name' | 'hoursPerDay' | 'days', string> {
  readonly scale: PlaybackScale;
  readonly grade: Grade;
}

function JobStep({ page, rigId, clips }: { page: VolumePage; rigId: string; clips: VolumePage['clips'] }) {
  const router = useRouter();
  const asking = useRequestForm<'POST /api/briefs', JobTyped>('POST /api/briefs', {
    schema: briefInput,
    defaults: { name: '', hoursPerDay: '2', days: '10', scale: 'full', grade: 'workable' },
    bodyOf: ({ name, hoursPerDay, days, scale, grade }) => ({
      name: name.trim() || page.volume.name,
      question: `Does this footage play from ${page.volume.name}, and what would do better?`,
      cameras: clips.map(({ id, path }) => ({
        clipId: id,
        name: fileName(path)
          .replace(/\.[^.]+$/, '')
          .slice(0, 80),
        hoursPerDay: figure(hoursPerDay),
      })),
      days: figure(days),
      scale,
      grade,
      places: [{ rigId, volumeId: page.volume.id, price: page.volume.price }],
    }),
    // The hours hold for every camera: they are typed once.
    fieldOf: (place) => (/^cameras\.\d+\.hoursPerDay$/.test(place) ? 'hoursPerDay' : place),
  });
  const measuring = useSend();
  const measure = async () => {
    const made = await asking.send();
    if (!made) return;
    // Cells that cannot be measured say so on the map.
    await measuring.send('POST /api/briefs/{id}/measure', { ids: { id: made.id }, body: { cells: null } });
    router.push(`/choose/${made.id}`);
  };
  return (
    <Form of={asking} label="Job" className="flex flex-col gap-3" onSubmit={measure}>
      <div className="flex flex-wrap items-start gap-4">
        <FormTextField name="name" label="Job" placeholder={page.volume.name} className="w-56" />
        <FormNumberField name="hoursPerDay" label="Each camera, a day" unit="h" className="w-36" />
        <FormNumberField name="days" label="Shooting days" />
        <FormChoice name="scale" label="Playback scale" options={scaleOptions} />
        <FormChoice name="grade" label="Grade required" options={requiredGradeOptions} />
        <Button
          look="main"
          type="submit"
          className="mt-5"
          disabled={asking.busy || measuring.busy || clips.length === 0}
        >
          Measure {count(clips.length)} {clips.length === 1 ? 'camera' : 'cameras'}
        </Button>
      </div>
      <FormProblems />
    </Form>
  );
}
