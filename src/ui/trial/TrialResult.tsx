'use client';
import { Download, RotateCcw, Trash2 } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { answerSentence, cureSentence } from '@/core/playback/sentence';
import { decodeTraceView, type TraceView } from '@/core/playback/traceView';
import type { PlaybackSummary } from '@/core/playback/summary';
import { clipTimecode } from '@/core/time/clipTimecode';
import type { TrialListRow } from '@/db/queries/trials';
import type { PlaybackScale } from '@/engine/playback/spec';
import type { TrialPage } from '@/server/trials';
import { callApi } from '../api';
import { RibbonLegend, RiverLegend } from '../charts/Legend';
import { SlotChart } from '../charts/SlotChart';
import { Button } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { GradeMark } from '../parts/GradeMark';
import { DisturbedNote } from '../parts/DisturbedNote';
import { Conditions } from './Conditions';
import { ResultFigures } from './ResultFigures';
import { SelfCheckReport } from './SelfCheckReport';
import { SlotReadout } from './SlotReadout';
import { TrialHeader } from './TrialHeader';
import { endTitles } from './words';

/** One result, one page: the answer, the picture of it, the numbers, then what they rest on. */
export function TrialResult({ trial, samples }: TrialPage) {
  const { summary } = trial;
  const rate = trial.subject.format.rate.num / trial.subject.format.rate.den;
  return (
    <div className="flex flex-col gap-5">
      <div className="flex items-start gap-4">
        <TrialHeader trial={trial} />
        <Actions trial={trial} />
      </div>
      {trial.status !== 'done' && (
        <section role="alert" className="border-l-4 border-signal bg-surface p-4">
          <h1>{endTitles[trial.status]}</h1>
          <p className="mt-1">{trial.outcome}</p>
          {trial.detail && <details className="mt-2 text-sm text-muted"><summary>Detail</summary><pre className="mt-1 overflow-auto text-xs">{trial.detail}</pre></details>}
        </section>
      )}
      {trial.kind === 'self-check' && trial.selfCheck && <SelfCheckReport result={trial.selfCheck} />}
      {summary && (
        <>
          <Answer trial={trial} summary={summary} rate={rate} />
          <Picture trial={trial} />
          <ResultFigures trial={trial} summary={summary} />
        </>
      )}
      <Conditions trial={trial} samples={samples} />
    </div>
  );
}

function Answer({ trial, summary, rate }: { trial: TrialListRow; summary: PlaybackSummary; rate: number }) {
  const { load, status } = trial;
  return (
    <section aria-label="Answer">
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
        {summary.grade && <GradeMark grade={summary.grade} large />}
        <h1 data-testid="answer">{status !== 'done' && 'Up to where it ended: '}{answerSentence(summary, rate)}</h1>
      </div>
      <DisturbedNote load={load} className="mt-2" />
      {summary.cures.length > 0 && (
        <ul aria-label="Cures" className="mt-2 list-disc pl-5 text-muted">
          {summary.cures.map((cure) => (
            <li key={cureSentence(cure)}>{cureSentence(cure)}{cure.kind === 'scale' && trial.clipId && <> <PlayAgain trial={trial} scale={cure.scale} /></>}</li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Queues the same trial again at a playback scale and goes to it. */
function useAgain(trial: TrialListRow) {
  const router = useRouter();
  const [error, setError] = useState<string | null>(null);
  const again = useCallback((scale: PlaybackScale) => {
    const { policy, threads, warm } = trial.settings;
    setError(null);
    callApi<{ id: string }>('/api/trials', 'POST', { clipId: trial.clipId, scale, policy, threads, warm })
      .then(({ id }) => router.push(`/trials/${id}`), (failure: unknown) => setError(failure instanceof Error ? failure.message : String(failure)));
  }, [trial, router]);
  return { again, error };
}

/** Puts a forecast cure to the test. */
function PlayAgain({ trial, scale }: { trial: TrialListRow; scale: PlaybackScale }) {
  const { again, error } = useAgain(trial);
  return (
    <>
      <button type="button" data-no-print className="text-ink underline decoration-edge underline-offset-4" onClick={() => again(scale)}>Play it at {scale} scale</button>
      {error && <span role="alert" className="ml-2 text-signal-text">{error}</span>}
    </>
  );
}

function Actions({ trial }: { trial: TrialListRow }) {
  const router = useRouter();
  const { again, error } = useAgain(trial);
  return (
    <div data-no-print className="ml-auto flex shrink-0 gap-1">
      {trial.kind === 'playback' && trial.clipId && <Button onClick={() => again(trial.settings.scale)}><RotateCcw aria-hidden className="size-4" />Repeat</Button>}
      <a href={`/api/trials/${trial.id}/csv`} className="inline-flex h-9 items-center gap-2 px-3 text-sm text-muted hover:bg-raised hover:text-ink"><Download aria-hidden className="size-4" />Raw trace</a>
      <ConfirmButton label="Remove this trial" title="Remove this trial?" consequence={`The result of ${trial.subject.clipPath} and its trace of ${trial.slotCount} slots go. This cannot be undone.`} verb="Remove" act={async () => { await callApi(`/api/trials/${trial.id}`, 'DELETE'); router.push('/trials'); }}>
        <Trash2 aria-hidden className="size-4" />
      </ConfirmButton>
      {error && <p role="alert" className="max-w-64 border-l-4 border-signal pl-3 text-sm">{error}</p>}
    </div>
  );
}

/** The ribbon and the river, with the slot under the playhead in words. */
function Picture({ trial }: { trial: TrialListRow }) {
  const [view, setView] = useState<TraceView | null>(null);
  const [failed, setFailed] = useState(false);
  const [playhead, setPlayhead] = useState(trial.summary?.firstDropSlot ?? 0);
  useEffect(() => {
    const control = new AbortController();
    fetch(`/api/trials/${trial.id}/trace`, { signal: control.signal }).then(async (response) => {
      if (!response.ok) throw new Error();
      setView(decodeTraceView(await response.arrayBuffer()));
    }).catch(() => { if (!control.signal.aborted) setFailed(true); });
    return () => control.abort();
  }, [trial.id]);
  const timecodeAt = useMemo(() => clipTimecode(trial.subject.startTimecode, trial.subject.format.rate), [trial]);
  const slotMs = (1000 * trial.subject.format.rate.den) / trial.subject.format.rate.num;
  if (failed) return <p role="alert" className="border-l-4 border-signal pl-3 text-sm">The trace could not be loaded. Load the page again.</p>;
  if (!view) return <div aria-busy className="h-[300px] border bg-surface" />;
  return (
    <section aria-label="Slots" className="flex flex-col gap-2">
      <SlotChart data={view} view={view} slotMs={slotMs} timecodeAt={timecodeAt} playhead={playhead} onPlayhead={setPlayhead} readout={(slot) => <SlotReadout view={view} slot={slot} timecodeAt={timecodeAt} />} />
      <RibbonLegend />
      <RiverLegend />
    </section>
  );
}
