'use client';
import { count, megabitsPerSecond, quantity, upTo } from '@/core/format';
import { Play } from 'lucide-react';
import { formatLabel } from '@/core/media/format';
import { frameStructureLabel } from '@/core/media/frameStructure';
import { toNumber } from '@/core/time/rational';
import type { ListPart } from '@/server/trials/trialList';
import { LinkButton } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { Simulated } from '../parts/Simulated';
import { isDecodeNews } from '../decode/words';
import { useLive } from '../shell/useLive';
import { TrialList } from '../trials/TrialList';
import { ClipDecode } from './ClipDecode';
import { hasFreeRate } from '@/core/media/clipRate';
import { ClipRate } from './ClipRate';
import { ClipOpening } from './ClipOpening';
import { ClipFacts } from './ClipFacts';
import { FrameChart } from './FrameChart';
import { PreviewStrip } from './PreviewStrip';
import { RenditionList } from './RenditionList';
import type { ClipPage } from '../pages';

/** One clip: what it is, what to know before playing it, how its frames lie, and what was measured of it. */
export function ClipView({ initial, list }: { initial: ClipPage; list: ListPart }) {
  const { id } = initial.clip;
  const [page, reload] = useLive(
    initial,
    'GET /api/clips/{id}',
    (event) => event.type === 'clips' || (event.type === 'volume' && event.finished) || isDecodeNews(event),
    { ids: { id } },
  );
  const { clip, warnings, preview } = page;
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <ClipHead page={page} />
      {clip.problem && (
        <p role="alert" className="border-l-4 border-signal bg-surface p-3 text-sm">
          {clip.problem}
        </p>
      )}
      {warnings.length > 0 && (
        <ul aria-label="Warnings" className="flex flex-col gap-1.5">
          {warnings.map(({ kind, short, text }) => (
            <li key={kind} className="border-l-4 border-signal pl-3 text-sm">
              <b className="inline-block font-semibold first-letter:uppercase">{short}</b>. {text}
            </li>
          ))}
        </ul>
      )}
      {clip.format && hasFreeRate(clip.identity) && (
        <ClipRate
          key={`${clip.format.rate.num}/${clip.format.rate.den}`}
          id={id}
          rate={clip.format.rate}
          reload={reload}
        />
      )}
      {clip.status === 'ready' && (
        <PreviewStrip clipId={id} preview={preview} stamp={clip.contentHash ?? ''} />
      )}
      {clip.format && clip.frames !== null && clip.frames > 0 && (
        <FrameChart clipId={id} rate={clip.format.rate} startTimecode={clip.startTimecode} />
      )}
      <ClipFacts page={page} />
      <RenditionList page={page} reload={reload} />
      {clip.status === 'ready' && <ClipOpening page={page} />}
      {clip.status === 'ready' && <ClipDecode page={page} />}
      <section aria-label="Trials of this clip">
        <h2 className="mb-2">Its trials</h2>
        <TrialList
          list={list}
          label="Trials of this clip"
          empty={
            <Empty title="No trial of this clip yet">
              Play it, scrub it or measure how fast it decodes: each trial is listed here.
            </Empty>
          }
        />
      </section>
    </div>
  );
}

/** Where it lies, what it is, and what can be done with it. */
function ClipHead({ page }: { page: ClipPage }) {
  const { clip } = page;
  return (
    <div className="flex items-start gap-4">
      <div className="min-w-0">
        <p className="break-all text-sm text-muted">
          <span className="text-base font-semibold text-ink">{clip.path.split('/').at(-1)}</span> on{' '}
          {clip.volumeName}
          {clip.simulated && (
            <>
              {' '}
              <Simulated />
            </>
          )}
          , {clip.path}
        </p>
        <h1 className="mt-1" data-testid="answer">
          {answer(page)}
        </h1>
      </div>
      {clip.status === 'ready' && (
        <span className="ml-auto flex shrink-0 gap-2">
          <LinkButton href={`/trials/tasks?clip=${clip.id}`}>Export</LinkButton>
          <LinkButton href={`/trials?clip=${clip.id}`}>
            <Play aria-hidden className="size-4" />
            Play and measure
          </LinkButton>
        </span>
      )}
    </div>
  );
}

function answer({
  clip: { format, structure, frames, meanBitsPerSecond, peakBitsPerSecond, problem },
}: ClipPage): string {
  if (!format || !structure)
    return problem ? 'This file could not be read as a clip' : 'Nothing is known of this clip yet';
  return `${formatLabel(format)}, ${upTo(toNumber(format.rate), 3)} per second: ${frameStructureLabel(structure)}, ${count(frames ?? 0)} frames (${quantity((frames ?? 0) / toNumber(format.rate), 's', 1)}), ${megabitsPerSecond(meanBitsPerSecond)} mean, ${megabitsPerSecond(peakBitsPerSecond)} in the worst second.`;
}
