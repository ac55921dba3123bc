'use client';
import { clockTime, count, fixed, percent, quantity, size, times } from '@/core/format';
import { clsx } from 'clsx';
import Link from 'next/link';
import { repeatedNote } from '@/core/media/faults';
import { isProved } from '@/core/rendition/frameCheck';
import { presetName } from '@/core/rendition/presets';
import { limiterOf } from '@/core/tasks/limiter';
import { toNumber } from '@/core/time/rational';
import type { TrialRow } from '@/db/kinds';
import type { RenditionItemRow } from '@/db/queries/renditions';
import type { TrialPage } from '@/server/trials/trialPage';
import { Figure, FigureRow } from '../parts/Figure';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { useProgress } from '../shell/status';
import { plainName } from '@/core/simulated';
import { ConditionsFrame } from '../trial/ConditionsFrame';
import { LiveFrame } from '../trial/LiveFrame';
import { ResultFrame } from '../trial/ResultFrame';
import type { KindView } from './kind';
import { endTitles } from '../trialWords';
import { itemWords, rasterWords, stageWords } from '../renditions/words';
import type { LanesMeasured, RenditionProgressNote } from '@/core/kinds/renditions';
import { checkSentence } from '@/core/sentences/renditions';
import { ColumnHeads } from '../table/ColumnHeads';

/** What was made, and where it went. */
function Line({ trial: { settings, subject } }: { trial: TrialRow<'renditions'> }) {
  return (
    <>
      <span className="text-base font-semibold text-ink">
        {presetName(settings.presetId)}, {rasterWords[settings.raster]}
      </span>
      <span>
        to {subject.volumeName}
        {subject.simulated && (
          <>
            {' '}
            <Simulated />
          </>
        )}
        , {settings.folder}
      </span>
    </>
  );
}

function Lanes({ lanes }: { lanes: LanesMeasured | null | undefined }) {
  if (!lanes) return null;
  return (
    <p className="text-sm text-muted">
      Clips at a time, measured on the first part of each:{' '}
      {lanes.rates.map((rate, index) => `${index + 1}: ${quantity(rate, 'frames/s', 1)}`).join(', ')}. Made
      with {lanes.chosen}.
    </p>
  );
}

function Live({ page: { trial, items } }: { page: TrialPage<'renditions'> }) {
  const told = useProgress<RenditionProgressNote>(trial.id);
  const progress = told ?? trial.progress;
  const there = items.filter(({ status }) => status === 'made' || status === 'present').length;
  return (
    <>
      <LiveFrame
        trial={trial}
        now={progress?.note ?? 'Beginning'}
        noun="batch"
        pauses
        share={progress ? progress.framesDone / Math.max(1, progress.framesTotal) : 0}
        stopping="At a pause or cancel, what is made stays; a clip in progress starts again."
      >
        <FigureRow>
          <Figure name="Clips">
            {there} of {items.length}
          </Figure>
          <Figure name="Frames">
            {progress ? `${count(progress.framesDone)} of ${count(progress.framesTotal)}` : '–'}
          </Figure>
          <Figure name="Now, frames/s">{progress ? fixed(progress.framesPerSecond, 1) : '–'}</Figure>
          <Figure name="Time left">{progress?.msLeft != null ? clockTime(progress.msLeft) : '–'}</Figure>
        </FigureRow>
      </LiveFrame>
      <Lanes lanes={trial.record?.lanes} />
      <ItemTable items={items} />
    </>
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

function Result({ page }: { page: TrialPage<'renditions'> }) {
  const { trial, items } = page;
  const { made, media, bytes, sourceBytes } = totals(items);
  const workedMs = trial.record?.workedMs ?? 0;
  const seconds = workedMs / 1000;
  const isDone = trial.status === 'done';
  return (
    <ResultFrame
      page={page}
      title={
        trial.status === 'paused'
          ? 'This batch is paused'
          : isDone
            ? undefined
            : endTitles[trial.status].replace('trial', 'batch')
      }
      answer={
        isDone &&
        `${trial.outcome ?? ''}${made > 0 ? ` ${quantity(media, 's', 1)} of media in ${quantity(seconds, 's', 1)}: ${times(media / seconds)} real time.` : ''}`
      }
      decides={false}
    >
      {made > 0 && (
        <FigureRow>
          <Figure name="Made">
            {made} of {items.length}
          </Figure>
          <Figure name="Real time" note={`${quantity(media, 's', 1)} of media, checks included`}>
            {times(media / seconds)}
          </Figure>
          <Figure name="Time">{clockTime(workedMs)}</Figure>
          <Figure name="Size" note={`${percent(bytes / sourceBytes, 0)} of ${size(sourceBytes)}`}>
            {size(bytes)}
          </Figure>
        </FigureRow>
      )}
      <Lanes lanes={trial.record?.lanes} />
      <ItemTable items={items} />
      <ConditionsFrame
        trial={trial}
        rows={[
          ['Made as', `${presetName(trial.settings.presetId)}, ${rasterWords[trial.settings.raster]}`],
          ['To', `${plainName(trial.subject.volumeName, trial.subject.simulated)}, ${trial.settings.folder}`],
          ['Clips at a time', String(trial.record?.lanes?.chosen ?? trial.settings.lanes ?? 'not reported')],
        ]}
      />
    </ResultFrame>
  );
}

function ItemTable({ items }: { items: readonly RenditionItemRow[] }) {
  return (
    <div className="overflow-x-auto border bg-surface">
      <table aria-label="Renditions of this batch" className="w-full text-sm">
        <ColumnHeads names={['Clip', 'State', 'Real time', 'Held back by', 'Size', 'Frame check']} />
        <tbody>
          {items.map((item) => (
            <ItemRow key={item.id} item={item} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What it is made of, and what was made. */
function ClipCell({ item: { sourcePath, sourceClipId, outputClipId, outputPath } }: ItemProps) {
  return (
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
  );
}

function StateCell({ item: { status, outcome, detail } }: ItemProps) {
  return (
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
  );
}

interface ItemProps {
  readonly item: RenditionItemRow;
}

function ItemRow({ item }: ItemProps) {
  const { work, frameCheck, sourceFrames, sourceFormat, sourceBytes } = item;
  const limiter = work && limiterOf(work.stageUs, work.wallUs);
  const factor = work ? sourceFrames / toNumber(sourceFormat.rate) / (work.wallUs / 1e6) : null;
  return (
    <tr className="group/row border-b align-top last:border-b-0">
      <ClipCell item={item} />
      <StateCell item={item} />
      <td className="figure whitespace-nowrap px-3 py-1.5">
        {factor === null ? '–' : times(factor)}
        {work && <span className="block text-xs text-muted">{quantity(work.wallUs / 1e6, 's', 1)}</span>}
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

export const renditions: KindView<'renditions'> = {
  Line,
  Live,
  Result,
  possible: ({ items }) => ({
    noun: 'batch',
    goesOn: items.some(({ status }) => status === 'waiting' || status === 'failed'),
    record: 'Clips',
    goes: 'The record of this batch is removed. The renditions stay where they are; made again, they would no longer be known as made by Navvy.',
    home: '/media/renditions',
  }),
};
