'use client';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useState } from 'react';
import type { PlayedKind } from '@/core/kinds/kinds';
import { askedAgain, decodingWords, isSoftwareAlone } from '@/core/decode/decoding';
import type { Cure } from '@/core/playback/cures';
import { answerSentence, cureSentence } from '@/core/sentences/playback';
import { decodeTraceView, type TraceView } from '@/core/playback/traceView';
import type { PlaybackSummary } from '@/core/playback/summary';
import { toNumber } from '@/core/time/rational';
import { losesDepth } from '@/core/playback/depth';
import { formatsOf, nameOf, rateOf, slotTimecode } from '@/core/timeline/subject';
import { slotState } from '@/core/playback/slots';
import type { PlayedTrial } from '@/db/kinds';
import { hasSound, soundOf } from '@/core/playback/sound';
import type { FieldsWay, Meanwhile, SoundChoice, WorkingDepth } from '@/core/playback/settings';
import type { PlaybackScale } from '@/engine/playback/spec';
import type { TrialPage } from '@/server/trials/trialPage';
import { RibbonLegend, RiverLegend } from '../charts/Legend';
import { SlotChart } from '../charts/SlotChart';
import { GradeMark } from '../parts/GradeMark';
import { DoubtNote } from '../parts/DoubtNote';
import { CourseStrip, PartTable, SlotParts, usePlayedTimeline } from '../timeline/PlayedTimeline';
import { useComingUp } from '../keys/comingUp';
import { Annotate } from './Annotate';
import { askedCourse, roundsOf } from './askedCourse';
import { Conditions } from './Conditions';
import { TelemetryLegend, TelemetryStrip } from './TelemetryStrip';
import { ResultFigures } from './ResultFigures';
import { SelfCheckReport } from './SelfCheckReport';
import { SlotReadout } from './SlotReadout';
import { FaultsNote } from '../parts/FaultsNote';
import { useSend } from '../useSend';
import { DecodedStreams } from './DecodedStreams';
import { EndNote } from './EndNote';
import { OriginNote } from './OriginNote';
import type { Possible } from './TrialActions';
import { addressOf } from '../api';

/** One result, one page: the answer, the picture of it, the numbers, then what they rest on. */
export function TrialResult({ page }: { page: TrialPage<PlayedKind> }) {
  const { trial, samples, annotation } = page;
  const { summary } = trial;
  const rate = toNumber(rateOf(trial.subject));
  return (
    <>
      <OriginNote page={page} />
      {trial.status !== 'done' && <EndNote of={trial} />}
      {summary?.selfCheck && <SelfCheckReport result={summary.selfCheck} />}
      {summary && (
        <>
          <Answer trial={trial} summary={summary} rate={rate} />
          <Picture trial={trial} samples={samples} />
          <FaultsNote
            faults={trial.conditions?.run?.faults}
            placeOf={trial.subject.timeline ? undefined : slotTimecode(trial.subject)}
          />
          <ResultFigures trial={trial} summary={summary} />
          <DecodedStreams decoding={trial.settings.decoding} streams={trial.conditions?.run?.streams} />
          {trial.subject.timeline && summary.parts && summary.dropped > 0 && (
            <PartTable subject={trial.subject} parts={summary.parts} />
          )}
        </>
      )}
      <Conditions trial={trial} />
      <Annotate key={trial.id} trialId={trial.id} annotation={annotation} />
    </>
  );
}

/** What can be done with a run that has ended. */
export function playedPossible({ trial }: TrialPage<PlayedKind>): Possible {
  return {
    again: canRepeat(trial) ? requestOf(trial, {}) : null,
    record: 'Raw trace',
    goes: `The result of ${nameOf(trial.subject)} and its trace of ${trial.progress?.slotCount ?? 0} slots are removed. This cannot be undone.`,
    home: '/trials',
  };
}

function Answer({ trial, summary, rate }: { trial: PlayedTrial; summary: PlaybackSummary; rate: number }) {
  const { load, status, subject } = trial;
  const placeOf = useMemo(() => slotTimecode(subject), [subject]);
  return (
    <section aria-label="Answer">
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
        {summary.grade && <GradeMark grade={summary.grade} large />}
        <h1 data-testid="answer">
          {status !== 'done' && 'Up to where it ended: '}
          {answerSentence(summary, rate)}
        </h1>
      </div>
      <DoubtNote load={load} className="mt-2" />
      {!isSoftwareAlone(trial.settings.decoding) && canRepeat(trial) && (
        <p className="mt-2 text-muted">
          Decoded on {decodingWords(trial.settings.decoding)}.
          <PlayWith trial={trial} change={{ decodeOn: [] }} words="Play it in software" />
        </p>
      )}
      {losesDepth(trial.settings, formatsOf(trial.subject)) && (
        <p className="mt-2 text-muted">
          Processed in 8 bits a channel, which is less than its media has.
          {canRepeat(trial) && (
            <PlayWith trial={trial} change={{ depth: 'kept' }} words="Play it as deep as the source" />
          )}
        </p>
      )}
      {trial.settings.sound === 'off' && soundOf(trial.subject).length > 0 && (
        <p className="mt-2 text-muted">
          Sound was off.
          {canRepeat(trial) && <PlayWith trial={trial} change={{ sound: 'on' }} words="Play it with sound" />}
        </p>
      )}
      {trial.settings.meanwhile === 'previews' && (
        <p className="mt-2 text-muted">
          Thumbnails and sound peaks of its clips were drawn meanwhile.
          {canRepeat(trial) && (
            <PlayWith trial={trial} change={{ meanwhile: 'nothing' }} words="Play it without" />
          )}
        </p>
      )}
      {summary.cures.length > 0 && (
        <ul aria-label="Cures" className="mt-2 list-disc pl-5 text-muted">
          {summary.cures.map((cure) => {
            const sentence = cureSentence(cure, placeOf);
            return (
              <li key={sentence}>
                {sentence}
                {canRepeat(trial) && <TryCure trial={trial} cure={cure} />}
              </li>
            );
          })}
        </ul>
      )}
    </section>
  );
}

/** What is changed for the same trial again. */
interface Change {
  readonly scale?: PlaybackScale;
  readonly meanwhile?: Meanwhile;
  readonly sound?: SoundChoice;
  readonly depth?: WorkingDepth;
  readonly fields?: FieldsWay;
  /** what decodes it */ readonly decodeOn?: { readonly deviceId: string; readonly share: number }[];
  /** the proxy of a clip; null for those of a timeline */ readonly proxies?: string | null;
}

/** The same trial again, or with a change, as it is asked for. */
function requestOf(
  { settings, subject, clipId }: PlayedTrial,
  {
    scale = settings.scale,
    meanwhile = settings.meanwhile ?? 'nothing',
    sound = settings.sound ?? 'off',
    depth = settings.depth ?? '8-bit',
    fields = settings.fields ?? 'woven',
    decodeOn = askedAgain(settings.decoding),
    proxies,
  }: Change,
) {
  const { policy, threads, warm, cache = 'past', underWay = 1 } = settings;
  const { timeline } = subject;
  const what = timeline
    ? {
        timelineId: timeline.id,
        ...askedCourse(timeline),
        ...(timeline.course.loop ? { loops: roundsOf(timeline.course) } : {}),
        ...(proxies === undefined ? {} : { read: 'proxies' as const }),
      }
    : { clipId: proxies ?? clipId ?? '' };
  return {
    kind: 'playback' as const,
    ...what,
    scale,
    policy,
    threads,
    warm,
    cache,
    underWay,
    depth,
    fields,
    meanwhile,
    sound,
    decodeOn,
  };
}

function canRepeat({ kind, clipId, subject }: PlayedTrial): boolean {
  return kind === 'playback' && (clipId !== null || subject.timeline !== undefined);
}

/** How a cure is put to the test here, with the words for it; null where it cannot be. */
function changeOf(cure: Cure): { readonly change: Change; readonly words: string } | null {
  if (cure.kind === 'scale')
    return { change: { scale: cure.scale }, words: `Play it at ${cure.scale} scale` };
  if (cure.kind === 'proxies')
    return {
      change: { proxies: cure.clipId },
      words: cure.clipId === null ? 'Play its proxies' : 'Play its proxy',
    };
  if (cure.kind === 'device')
    return cure.deviceId === undefined
      ? null
      : {
          change: { decodeOn: [{ deviceId: cure.deviceId, share: 1 }] },
          words: `Play it decoded on ${cure.name}`,
        };
  return cure.kind === 'quiet' ? { change: {}, words: 'Play it again' } : null;
}

/** Puts a forecast cure to the test. */
function TryCure({ trial, cure }: { trial: PlayedTrial; cure: Cure }) {
  const tried = changeOf(cure);
  return tried && <PlayWith trial={trial} {...tried} />;
}

/** Plays the same again with a change. */
function PlayWith({ trial, change, words }: { trial: PlayedTrial; change: Change; words: string }) {
  const router = useRouter();
  const { error, send } = useSend();
  return (
    <>
      {' '}
      <button
        type="button"
        data-no-print
        className="text-ink underline decoration-edge underline-offset-4"
        onClick={() => {
          void send('POST /api/trials', { body: requestOf(trial, change) }).then((made) => {
            if (made) router.push(`/trials/${made.id}`);
          });
        }}
      >
        {words}
      </button>
      {error && (
        <span role="alert" className="ml-2 text-signal-text">
          {error.message}
        </span>
      )}
    </>
  );
}

/** The ribbon and the river, with the slot under the playhead in words. */
function Picture({ trial, samples }: Pick<TrialPage<PlayedKind>, 'trial' | 'samples'>) {
  const beganAtMs = trial.conditions?.run?.beganAtMs ?? null;
  const [view, setView] = useState<TraceView | null>(null);
  const [failed, setFailed] = useState(false);
  const [playhead, setPlayhead] = useState(trial.summary?.firstDropSlot ?? 0);
  useEffect(() => {
    const control = new AbortController();
    fetch(addressOf('GET /api/trials/{id}/trace', { ids: { id: trial.id } }), { signal: control.signal })
      .then(async (response) => {
        if (!response.ok) throw new Error();
        setView(decodeTraceView(await response.arrayBuffer()));
      })
      .catch(() => {
        if (!control.signal.aborted) setFailed(true);
      });
    return () => control.abort();
  }, [trial.id]);
  useComingUp(view === null && !failed);
  const timecodeAt = useMemo(() => slotTimecode(trial.subject), [trial]);
  const played = usePlayedTimeline(trial.subject.timeline ?? null);
  const parts = trial.summary?.parts ?? [];
  const slotMs = 1000 / toNumber(rateOf(trial.subject));
  if (failed)
    return (
      <p role="alert" className="border-l-4 border-signal pl-3 text-sm">
        The trace could not be loaded. Reload the page.
      </p>
    );
  if (!view) return <div aria-busy className="h-[300px] border bg-surface" />;
  return (
    <section aria-label="Slots" className="flex flex-col gap-2">
      <SlotChart
        data={view}
        view={view}
        slotMs={slotMs}
        timecodeAt={timecodeAt}
        playhead={playhead}
        onPlayhead={setPlayhead}
        readout={(slot) => (
          <>
            <SlotReadout view={view} slot={slot} timecodeAt={timecodeAt} />
            {trial.subject.timeline && played && (
              <SlotParts
                played={played}
                subject={trial.subject.timeline}
                parts={parts}
                slot={slot}
                dropped={view.state[slot] === slotState.dropped}
              />
            )}
          </>
        )}
        below={(range) => (
          <>
            {played && <CourseStrip strip={played.strip} range={range} timecodeAt={timecodeAt} />}
            {beganAtMs !== null && (
              <TelemetryStrip
                samples={samples}
                referenceUs={trial.load?.pulse?.referenceUs ?? null}
                fromMs={beganAtMs + range.from * slotMs}
                toMs={beganAtMs + range.to * slotMs}
              />
            )}
          </>
        )}
      />
      <RibbonLegend
        doubtful={view.doubtful.includes(1)}
        wrong={view.state.includes(slotState.wrong)}
        sound={hasSound(view.sound)}
      />
      <RiverLegend sound={hasSound(view.sound)} />
      {beganAtMs !== null && samples.length > 1 && <TelemetryLegend />}
    </section>
  );
}
