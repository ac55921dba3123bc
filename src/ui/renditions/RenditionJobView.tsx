'use client';
import { clsx } from 'clsx';
import { Pause, Play, Square, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo, useState } from 'react';
import { repeatedNote } from '@/core/media/faults';
import { checkSentence, isProved } from '@/core/rendition/frameCheck';
import { presetOf } from '@/core/rendition/presets';
import { limiterOf } from '@/core/tasks/limiter';
import { toNumber } from '@/core/time/rational';
import type { RenditionItemRow, RenditionJobRow } from '@/db/queries/renditions';
import type { RenditionPage } from '@/server/renditions';
import { callApi } from '../api';
import { clockTime, count, percent, size } from '../format';
import { Button } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { Figure, FigureRow } from '../parts/Figure';
import { FormError } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { Progress } from '../parts/Progress';
import { Simulated } from '../parts/Simulated';
import { DoubtNote } from '../parts/DoubtNote';
import { useCommands } from '../shell/commands';
import { useStatus } from '../shell/status';
import { useFollowedTrial } from '../shell/useFollowedTrial';
import { useLive } from '../shell/useLive';
import { endTitles } from '../trial/words';
import { useSend } from '../useSend';
import { itemWords, rasterWords, stageWords } from './words';

/** A batch of renditions: while it runs, and what came of it. */
export function RenditionJobView({ initial }: { initial: RenditionPage }) {
  const { id } = initial.job;
  const [page, reload] = useLive(
    initial,
    `/api/renditions/${id}`,
    (event) => event.type === 'rendition-status' && event.jobId === id,
  );
  const { job, items } = page;
  useFollowedTrial(id, job.status, reload);
  const isLive = job.status === 'queued' || job.status === 'running';
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <div className="flex items-start gap-4">
        <p className="flex flex-wrap items-baseline gap-x-4 text-sm text-muted">
          <span className="text-base font-semibold text-ink">
            {presetOf(job.settings.presetId).name}, {rasterWords[job.settings.raster]}
          </span>
          <span>
            to {job.settings.volumeName}
            {job.settings.simulated && (
              <>
                {' '}
                <Simulated />
              </>
            )}
            , {job.settings.folder}
          </span>
        </p>
        {!isLive && <Actions page={page} />}
      </div>
      {isLive ? <Live job={job} items={items} /> : <Summary page={page} />}
      {job.lanes && (
        <p className="text-sm text-muted">
          Clips at a time, measured on their beginnings:{' '}
          {job.lanes.rates.map((rate, index) => `${index + 1}: ${rate.toFixed(1)} frames/s`).join(', ')}. Made
          with {job.lanes.chosen}.
        </p>
      )}
      <ItemTable items={items} />
    </div>
  );
}

function Live({ job, items }: { job: RenditionJobRow; items: readonly RenditionItemRow[] }) {
  const { renditionProgress } = useStatus();
  const progress = renditionProgress?.jobId === job.id ? renditionProgress.progress : job.progress;
  const { busy, error, send } = useSend();
  const [asked, setAsked] = useState<'cancel' | 'pause' | null>(null);
  const ask = useCallback(
    (what: 'cancel' | 'pause') => {
      setAsked(what);
      void send(`/api/renditions/${job.id}/${what}`, 'POST').then((done) => {
        if (done === null) setAsked(null);
      });
    },
    [send, job.id],
  );
  useCommands(
    useMemo(
      () => [
        {
          id: 'cancel',
          label: 'Cancel this batch',
          group: 'Renditions',
          key: 'Escape',
          run: () => ask('cancel'),
        },
        { id: 'pause', label: 'Pause this batch', group: 'Renditions', key: 'p', run: () => ask('pause') },
      ],
      [ask],
    ),
  );
  const waiting = job.status === 'queued';
  const there = items.filter(({ status }) => status === 'made' || status === 'present').length;
  return (
    <div className="flex flex-col gap-4">
      <div className="flex items-center gap-2">
        <h1 aria-live="polite" className="mr-auto min-w-0 truncate">
          {waiting ? 'Waiting for its turn' : (progress?.note ?? 'Beginning')}
        </h1>
        <Button onClick={() => ask('pause')} disabled={busy || asked !== null}>
          <Pause aria-hidden className="size-4" />
          {asked === 'pause' ? 'Pausing' : 'Pause'}
        </Button>
        <Button onClick={() => ask('cancel')} disabled={busy || asked === 'cancel'}>
          <Square aria-hidden className="size-4" />
          {asked === 'cancel' ? 'Cancelling' : 'Cancel'}
        </Button>
      </div>
      <FormError message={error?.message} />
      <Progress value={progress?.framesDone ?? 0} most={progress?.framesTotal ?? 1} label="Progress" />
      <FigureRow>
        <Figure name="Clips">
          {there} of {items.length}
        </Figure>
        <Figure name="Frames">
          {progress ? `${count(progress.framesDone)} of ${count(progress.framesTotal)}` : '–'}
        </Figure>
        <Figure name="Now, frames/s">{progress ? progress.framesPerSecond.toFixed(1) : '–'}</Figure>
        <Figure name="Time left">{progress?.msLeft != null ? clockTime(progress.msLeft) : '–'}</Figure>
      </FigureRow>
      <p className="text-sm text-muted">
        You may leave this page. At a pause or cancel, what is made stays; a clip under way begins again.
      </p>
    </div>
  );
}

/** Seconds of media that were made, and of work they took. */
function totals(items: readonly RenditionItemRow[]) {
  const made = items.filter(({ status, work }) => status === 'made' && work !== null);
  return {
    made: made.length,
    media: made.reduce(
      (sum, { sourceFrames, sourceFormat }) => sum + sourceFrames / toNumber(sourceFormat.rate),
      0,
    ),
    bytes: made.reduce((sum, { work }) => sum + (work?.bytes ?? 0), 0),
    sourceBytes: made.reduce((sum, { sourceBytes }) => sum + sourceBytes, 0),
  };
}

function Summary({ page: { job, items } }: { page: RenditionPage }) {
  const { made, media, bytes, sourceBytes } = totals(items);
  const seconds = job.workedMs / 1000;
  return (
    <>
      {job.status !== 'done' ? (
        <section role="alert" className="border-l-4 border-signal bg-surface p-4">
          <h1>
            {job.status === 'paused'
              ? 'This batch is paused'
              : endTitles[job.status].replace('trial', 'batch')}
          </h1>
          <p className="mt-1">{job.outcome}</p>
        </section>
      ) : (
        <h1 data-testid="answer">
          {job.outcome}
          {made > 0 &&
            ` ${media.toFixed(1)} s of media in ${seconds.toFixed(1)} s: ${(media / seconds).toFixed(2)}x real time.`}
        </h1>
      )}
      <DoubtNote load={job.load} decides={false} />
      {made > 0 && (
        <FigureRow>
          <Figure name="Made">
            {made} of {items.length}
          </Figure>
          <Figure name="Real time" note={`${media.toFixed(1)} s of media, checks included`}>
            {(media / seconds).toFixed(2)}x
          </Figure>
          <Figure name="Time">{clockTime(job.workedMs)}</Figure>
          <Figure name="Size" note={`${percent(bytes / sourceBytes, 0)} of ${size(sourceBytes)}`}>
            {size(bytes)}
          </Figure>
        </FigureRow>
      )}
    </>
  );
}

function ItemTable({ items }: { items: readonly RenditionItemRow[] }) {
  return (
    <div className="overflow-x-auto border bg-surface">
      <table aria-label="Renditions of this batch" className="w-full text-sm">
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            {['Clip', 'State', 'Real time', 'Held back by', 'Size', 'Frame check'].map((name) => (
              <th key={name} scope="col" className="px-3 py-1.5 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {items.map((item) => (
            <ItemRow key={item.id} item={item} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function ItemRow({
  item: {
    sourcePath,
    sourceClipId,
    outputClipId,
    outputPath,
    status,
    outcome,
    detail,
    work,
    frameCheck,
    sourceFrames,
    sourceFormat,
    sourceBytes,
  },
}: {
  item: RenditionItemRow;
}) {
  const limiter = work && limiterOf(work.stageUs, work.wallUs);
  const factor = work ? sourceFrames / toNumber(sourceFormat.rate) / (work.wallUs / 1e6) : null;
  return (
    <tr className="group/row border-b align-top last:border-b-0">
      <td className="max-w-72 px-3 py-1.5">
        {sourceClipId ? (
          <Link
            prefetch={false}
            href={`/media/clips/${sourceClipId}`}
            className="block py-0.5 underline decoration-edge underline-offset-4"
          >
            <MiddleName name={sourcePath} />
          </Link>
        ) : (
          <MiddleName name={sourcePath} />
        )}
        {outputClipId && (
          <Link
            prefetch={false}
            href={`/media/clips/${outputClipId}`}
            className="block py-1 text-xs text-muted underline decoration-edge underline-offset-4"
          >
            <MiddleName name={outputPath} tail={24} />
          </Link>
        )}
      </td>
      <td className="max-w-80 px-3 py-1.5">
        {status === 'failed' ? (
          <span className="text-signal-text">{itemWords[status]}</span>
        ) : (
          itemWords[status]
        )}
        {outcome && status !== 'made' && <span className="block text-xs text-muted">{outcome}</span>}
        {detail && (
          <details className="text-xs text-muted">
            <summary>Detail</summary>
            <pre className="overflow-auto">{detail}</pre>
          </details>
        )}
      </td>
      <td className="figure whitespace-nowrap px-3 py-1.5">
        {factor === null ? '–' : `${factor.toFixed(2)}x`}
        {work && <span className="block text-xs text-muted">{(work.wallUs / 1e6).toFixed(1)} s</span>}
      </td>
      <td className="px-3 py-1.5">
        {limiter ? (
          <>
            {stageWords[limiter.stage]}
            <span className="figure block text-xs text-muted">{percent(limiter.share, 0)} of the time</span>
          </>
        ) : (
          '–'
        )}
      </td>
      <td className="figure whitespace-nowrap px-3 py-1.5">
        {work ? size(work.bytes) : '–'}
        {work && <span className="block text-xs text-muted">{percent(work.bytes / sourceBytes, 0)}</span>}
      </td>
      <td
        className={clsx(
          'max-w-72 px-3 py-1.5 text-xs',
          frameCheck && !isProved(frameCheck) && 'text-signal-text',
        )}
      >
        {frameCheck ? checkSentence(frameCheck) : '–'}
        {repeatedNote(work?.faults)}
      </td>
    </tr>
  );
}

function Actions({ page: { job, items } }: { page: RenditionPage }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const left = items.some(({ status }) => status === 'waiting' || status === 'failed');
  return (
    <div data-no-print className="ml-auto flex shrink-0 items-start gap-1">
      {left && (
        <Button
          look="main"
          disabled={busy}
          onClick={() => {
            void send(`/api/renditions/${job.id}/resume`, 'POST');
          }}
        >
          <Play aria-hidden className="size-4" />
          Continue
        </Button>
      )}
      <ConfirmButton
        label="Remove this batch"
        title="Remove this batch?"
        consequence="The record of this batch goes. The renditions stay where they are; made again, they would no longer be known as made by Navvy."
        verb="Remove"
        act={async () => {
          await callApi(`/api/renditions/${job.id}`, 'DELETE');
          router.push('/media/renditions');
        }}
      >
        <Trash2 aria-hidden className="size-4" />
      </ConfirmButton>
      <FormError message={error?.message} />
    </div>
  );
}
