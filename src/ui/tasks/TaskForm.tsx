'use client';
import type { TrialAsked } from '@/core/asked/trials';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { kindNames, waitKinds, type TaskKind, type WaitKind } from '@/core/kinds/kinds';
import { plainName } from '@/core/simulated';
import { isStandInEncoder } from '@/core/tasks/encodeDevices';
import { intermediateIds, intermediateWords, type IntermediateId } from '@/core/tasks/prerender';
import type { TaskChoices } from '@/server/timelines/tasks';
import { Button } from '../parts/Button';
import { useWorkedIn } from '../parts/WorkedIn';
import { CacheChoice, Choice, PrerenderedChoice, ReadsChoice } from '../parts/Choice';
import { figure, figureOrNull, FormError, NumberField } from '../parts/Field';
import { useSend } from '../useSend';
import { analysisFacts } from '@/core/tasks/analysis';
import { AnalysisFields, useAnalysisChoice } from './AnalysisFields';
import { OpeningForm } from './OpeningForm';
import {
  DeliveryField,
  deliveryWords,
  EncoderField,
  ExportFields,
  useEncodeDevice,
  useExportChoice,
} from './ExportFields';
import { CheckField } from '../parts/Checkbox';
import {
  clipSubject,
  SubjectChoice,
  timelineSubject,
  volumeSubject,
  type Subject,
} from '../parts/SubjectChoice';
import { SelectField } from '../parts/Select';

/** What the form's button does. */
const verbs: Readonly<Record<TaskKind, string>> = {
  export: 'Export',
  'pre-render': 'Pre-render',
  analysis: 'Analyse',
};

/** What an address asks the form to begin with. */
export interface TaskWanted {
  readonly task: WaitKind;
  /** A timeline or a volume; null for the clip of the choices. */
  readonly what: Pick<Subject, 'kind' | 'id'> | null;
  readonly from: string;
  readonly to: string;
}

/** Choose what is waited for, and how it is done. */
export function TaskForm({ choices, wanted }: { choices: TaskChoices; wanted: TaskWanted }) {
  const [task, setTask] = useState<WaitKind>(wanted.task);
  const timelines = choices.timelines.filter(({ slots }) => slots > 0).map(timelineSubject);
  const volumes = choices.volumesWithClips.map(volumeSubject);
  const clip = choices.clip && clipSubject(choices.clip);
  const begin = (others: readonly Subject[]) =>
    others.find(({ kind, id }) => wanted.what?.kind === kind && wanted.what.id === id) ?? clip;
  return (
    <section aria-label="Start a task" className="flex flex-col gap-3 border bg-surface p-4">
      <Choice
        label="Task"
        value={task}
        onChange={setTask}
        options={waitKinds.map((kind) => [kind, kindNames[kind]])}
      />
      {task === 'opening' ? (
        <OpeningForm others={[...timelines, ...volumes]} first={begin([...timelines, ...volumes])} />
      ) : (
        <MakingForm
          task={task}
          choices={choices}
          others={timelines}
          first={begin(timelines)}
          wanted={wanted}
        />
      )}
    </section>
  );
}

/** Choose what to work on, what to make of it, and where that goes. */
function MakingForm({
  task,
  choices: { volumes, deliveries, encodeDevices },
  others,
  first,
  wanted,
}: {
  task: TaskKind;
  choices: TaskChoices;
  others: readonly Subject[];
  first: Subject | null;
  wanted: TaskWanted;
}) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [what, setWhat] = useState(first);
  const exported = useExportChoice(deliveries);
  const encoder = useEncodeDevice(encodeDevices, exported.typed);
  const analysis = useAnalysisChoice();
  const [intermediate, setIntermediate] = useState<IntermediateId>('prores-lt');
  const [targetVolumeId, setTargetVolumeId] = useState(volumes[0]?.id ?? '');
  const [from, setFrom] = useState(wanted.from);
  const [to, setTo] = useState(wanted.to);
  const [read, setRead] = useState<'originals' | 'proxies'>('originals');
  const [prerendered, setPrerendered] = useState(false);
  const [cache, setCache] = useState<'cold' | 'warm'>('cold');
  const { workedIn, choices: workedChoices } = useWorkedIn();
  const [keep, setKeep] = useState(false);
  const [likeness, setLikeness] = useState(false);
  const [threads, setThreads] = useState('');
  const name = kindNames[task];
  const [isExport, isAnalysis] = [task === 'export', task === 'analysis'];
  const start = async () => {
    const asked = {
      ...(what?.kind === 'timeline' ? { timelineId: what.id } : { clipId: what?.id ?? '' }),
      from: from.trim() === '' ? 0 : figure(from),
      to: figureOrNull(to),
      targetVolumeId,
      read,
      warm: cache === 'warm',
      ...workedIn,
      threads: threads.trim() === '' ? 0 : figure(threads),
    };
    const device = encoder.device === '' ? {} : { device: encoder.device, speed: null };
    const body: TrialAsked =
      task === 'export'
        ? { kind: task, ...asked, ...exported.body(), ...device, keep, prerendered, likeness }
        : task === 'analysis'
          ? { kind: task, ...asked, intermediate, ...analysis.body(), keep, prerendered }
          : { kind: task, ...asked, intermediate, likeness };
    const made = await send('POST /api/trials', { body });
    if (made) router.push(`/trials/tasks/${made.id}`);
  };
  const at = (field: string) => error?.field === field;
  const simulated = volumes.find(({ id }) => id === targetVolumeId)?.simulated ?? false;
  return (
    <form
      aria-label={name}
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <SubjectChoice
          label="Clip or timeline"
          value={what}
          onChange={setWhat}
          others={others}
          invalid={at('timelineId') || at('clipId')}
        />
        <SelectField
          label="To volume"
          value={targetVolumeId}
          onChange={setTargetVolumeId}
          options={volumes.map(({ id, name: volume, simulated: made }) => [id, plainName(volume, made)])}
          invalid={at('targetVolumeId')}
          className="w-56"
        />
        <Button look="main" type="submit" disabled={busy || what === null || targetVolumeId === ''}>
          {verbs[task]} and measure
        </Button>
      </div>
      {isExport ? (
        <div className="flex flex-wrap items-end gap-3">
          <DeliveryField {...exported} />
          <EncoderField {...encoder} invalid={at('device')} />
          <ExportFields {...exported} device={encoder.device} at={at} />
        </div>
      ) : (
        <div className="flex flex-wrap items-end gap-3">
          {isAnalysis && <AnalysisFields {...analysis} at={at} />}
          <SelectField
            label={isAnalysis ? 'Written as' : 'Intermediate'}
            value={intermediate}
            onChange={(id) => setIntermediate(id)}
            options={intermediateIds.map((id) => [id, intermediateWords(id)])}
            invalid={at('intermediate')}
            className="w-56"
          />
          <Stretch from={from} to={to} onFrom={setFrom} onTo={setTo} at={at} />
        </div>
      )}
      <p className="text-sm text-muted">
        {isExport && deliveryWords(exported.delivery)}
        {isAnalysis && `${analysisFacts[analysis.work].about} `}
        {task === 'pre-render'
          ? 'The pictures of the stretch, without sound, every frame a key frame. They are decoded whole and held against what went in before they count. Playback and exports use them only where they are told to, and not any more once their part of the timeline has changed.'
          : `The result is decoded whole and held against what went in before its time counts; it goes to a folder of its own on the volume and is removed afterwards${keep ? ` from there: it is kept in ${isExport ? 'exports' : 'analyses'}` : ''}.`}
        {isExport &&
          isStandInEncoder(encoder.device) &&
          ' The encoder is simulated: its pictures are encoded in software before, and given out at the times of its model.'}
        {simulated && ' The volume is simulated: writes are held to the times of its model.'}
      </p>
      <details>
        <summary className="w-fit text-sm text-muted hover:text-ink">Further conditions</summary>
        <div className="mt-2 flex flex-wrap items-end gap-4">
          {isExport && <Stretch from={from} to={to} onFrom={setFrom} onTo={setTo} at={at} />}
          <ReadsChoice value={read} onChange={setRead} />
          {task !== 'pre-render' && <PrerenderedChoice value={prerendered} onChange={setPrerendered} />}
          <CacheChoice value={cache} onChange={setCache} />
          {workedChoices()}
          <NumberField
            label="Threads"
            value={threads}
            placeholder="one per core"
            onChange={setThreads}
            invalid={at('threads')}
          />
          {task !== 'pre-render' && (
            <CheckField checked={keep} onChange={setKeep}>
              Keep the result
            </CheckField>
          )}
          {!isAnalysis && (
            <CheckField checked={likeness} onChange={setLikeness}>
              Measure the loss (SSIM, PSNR)
            </CheckField>
          )}
        </div>
      </details>
      <FormError message={error?.message} />
    </form>
  );
}

/** Slots of the timeline or clip that are worked on. */
function Stretch({
  from,
  to,
  onFrom,
  onTo,
  at,
}: {
  from: string;
  to: string;
  onFrom: (value: string) => void;
  onTo: (value: string) => void;
  at: (field: string) => boolean;
}) {
  return (
    <>
      <NumberField label="From slot" value={from} placeholder="0" onChange={onFrom} invalid={at('from')} />
      <NumberField label="Up to slot" value={to} placeholder="the end" onChange={onTo} invalid={at('to')} />
    </>
  );
}
