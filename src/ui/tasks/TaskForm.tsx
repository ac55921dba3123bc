'use client';
import { useRouter } from 'next/navigation';
import { useState, type ReactNode } from 'react';
import type { TrialAsked } from '@/core/asked/trials';
import { analysisInput } from '@/core/kinds/analysis';
import { exportInput } from '@/core/kinds/export';
import { kindNames, waitKinds, type TaskKind, type WaitKind } from '@/core/kinds/kinds';
import { prerenderInput } from '@/core/kinds/prerender';
import { plainName } from '@/core/simulated';
import { analysisFacts } from '@/core/tasks/analysis';
import { isStandInEncoder } from '@/core/tasks/encodeDevices';
import { intermediateIds, intermediateWords, type IntermediateId } from '@/core/tasks/prerender';
import type { TaskChoices } from '@/server/timelines/tasks';
import { Folded, Form, FormCheck, FormChoice, FormNumberField, FormProblems, FormSelect } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { cacheOptions, Choice, prerenderedOptions, readsOptions } from '../parts/Choice';
import { figureOrNull } from '../parts/Field';
import {
  clipSubject,
  SubjectChoice,
  timelineSubject,
  volumeSubject,
  type Subject,
} from '../parts/SubjectChoice';
import { useWorkedIn } from '../parts/WorkedIn';
import { AnalysisFields, useAnalysisChoice } from './AnalysisFields';
import {
  DeliveryField,
  deliveryWords,
  EncoderField,
  ExportFields,
  useEncodeDevice,
  useExportChoice,
} from './ExportFields';
import { OpeningForm } from './OpeningForm';

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

type ExportChosen = ReturnType<typeof useExportChoice>;

/** The request of a task, out of what is typed and what is chosen beside it. */
function useMaking(
  task: TaskKind,
  {
    what,
    wanted,
    firstVolume,
    workedIn,
    exported,
    encoder,
    analysis,
  }: {
    what: Subject | null;
    wanted: TaskWanted;
    firstVolume: string;
    workedIn: ReturnType<typeof useWorkedIn>['workedIn'];
    exported: ExportChosen;
    encoder: ReturnType<typeof useEncodeDevice>;
    analysis: ReturnType<typeof useAnalysisChoice>;
  },
) {
  return useRequestForm<'POST /api/trials', Typed>('POST /api/trials', {
    schema: taskInputs[task],
    defaults: {
      intermediate: 'prores-lt',
      targetVolumeId: firstVolume,
      from: wanted.from,
      to: wanted.to,
      read: 'originals',
      prerendered: 'anew',
      warm: 'cold',
      keep: false,
      likeness: false,
      threads: '',
    },
    bodyOf: ({ intermediate, keep, likeness, prerendered, ...typed }): TrialAsked => {
      const asked = {
        ...(what?.kind === 'timeline' ? { timelineId: what.id } : { clipId: what?.id ?? '' }),
        from: figureOrNull(typed.from) ?? 0,
        to: figureOrNull(typed.to),
        targetVolumeId: typed.targetVolumeId,
        read: typed.read,
        warm: typed.warm === 'warm',
        ...workedIn,
        threads: figureOrNull(typed.threads) ?? 0,
      };
      const device = encoder.device === '' ? {} : { device: encoder.device, speed: null };
      if (task === 'export')
        return {
          kind: task,
          ...asked,
          ...exported.body(),
          ...device,
          keep,
          likeness,
          prerendered: prerendered === 'use',
        };
      return task === 'analysis'
        ? { kind: task, ...asked, intermediate, ...analysis.body(), keep, prerendered: prerendered === 'use' }
        : { kind: task, ...asked, intermediate, likeness };
    },
  });
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
  const [what, setWhat] = useState(first);
  const exported = useExportChoice(deliveries);
  const encoder = useEncodeDevice(encodeDevices, exported.typed);
  const analysis = useAnalysisChoice();
  const { workedIn, choices: workedChoices } = useWorkedIn();
  const making = useMaking(task, {
    what,
    wanted,
    firstVolume: volumes[0]?.id ?? '',
    workedIn,
    exported,
    encoder,
    analysis,
  });
  const { targetVolumeId, keep } = useTyped(making);
  const { busy } = making;
  const name = kindNames[task];
  const [isExport, isAnalysis] = [task === 'export', task === 'analysis'];
  return (
    <Form
      of={making}
      label={name}
      className="flex flex-col gap-3"
      onSubmit={async () => {
        const made = await making.send();
        if (made) router.push(`/trials/tasks/${made.id}`);
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <SubjectChoice
          label="Clip or timeline"
          value={what}
          onChange={setWhat}
          others={others}
          invalid={making.isWrong('timelineId') || making.isWrong('clipId')}
        />
        <FormSelect
          name="targetVolumeId"
          label="To volume"
          options={volumes.map(({ id, name: volume, simulated: made }) => [id, plainName(volume, made)])}
          className="w-56"
        />
        <Button look="main" type="submit" disabled={busy || what === null || targetVolumeId === ''}>
          {verbs[task]} and measure
        </Button>
      </div>
      <MadeFields task={task} exported={exported} encoder={encoder} analysis={analysis} at={making.isWrong} />
      <TaskNote
        task={task}
        about={
          isExport ? deliveryWords(exported.delivery) : isAnalysis ? analysisFacts[analysis.work].about : ''
        }
        keep={keep}
        simulatedEncoder={isExport && isStandInEncoder(encoder.device)}
        simulatedVolume={volumes.find(({ id }) => id === targetVolumeId)?.simulated ?? false}
      />
      <Conditions task={task} workedIn={workedChoices()} />
      <FormProblems />
    </Form>
  );
}

/** What is made of it. */
function MadeFields({
  task,
  exported,
  encoder,
  analysis,
  at,
}: {
  task: TaskKind;
  exported: ReturnType<typeof useExportChoice>;
  encoder: ReturnType<typeof useEncodeDevice>;
  analysis: ReturnType<typeof useAnalysisChoice>;
  at: (field: string) => boolean;
}) {
  if (task === 'export')
    return (
      <div className="flex flex-wrap items-start gap-3">
        <DeliveryField {...exported} />
        <EncoderField {...encoder} invalid={at('device')} />
        <ExportFields {...exported} device={encoder.device} at={at} />
      </div>
    );
  const isAnalysis = task === 'analysis';
  return (
    <div className="flex flex-wrap items-end gap-3">
      {isAnalysis && <AnalysisFields {...analysis} at={at} />}
      <IntermediateField label={isAnalysis ? 'Written as' : 'Intermediate'} />
      <Stretch />
    </div>
  );
}

/** In what it is written, besides by an export. */
const IntermediateField = ({ label }: { label: string }) => (
  <FormSelect
    name="intermediate"
    label={label}
    options={intermediateIds.map((id) => [id, intermediateWords(id)])}
    className="w-56"
  />
);

/** What seldom is asked for otherwise. */
function Conditions({ task, workedIn }: { task: TaskKind; workedIn: ReactNode }) {
  const isExport = task === 'export';
  return (
    <Folded
      summary="Further conditions"
      names={[...(isExport ? ['from', 'to'] : []), 'read', 'prerendered', 'warm', 'threads']}
    >
      {isExport && <Stretch />}
      <FormChoice name="read" label="Reads" options={readsOptions} />
      {task !== 'pre-render' && (
        <FormChoice name="prerendered" label="Pre-rendered parts" options={prerenderedOptions} />
      )}
      <FormChoice name="warm" label="System cache" options={cacheOptions} />
      {workedIn}
      <FormNumberField name="threads" label="Threads" placeholder="one per core" />
      {task !== 'pre-render' && (
        <FormCheck name="keep" className="mt-5 h-9">
          Keep the result
        </FormCheck>
      )}
      {task !== 'analysis' && (
        <FormCheck name="likeness" className="mt-5 h-9">
          Measure the loss (SSIM, PSNR)
        </FormCheck>
      )}
    </Folded>
  );
}

/** What becomes of the result, and what of it is simulated. */
function TaskNote({
  task,
  about,
  keep,
  simulatedEncoder,
  simulatedVolume,
}: {
  task: TaskKind;
  about: string;
  keep: boolean;
  simulatedEncoder: boolean;
  simulatedVolume: boolean;
}) {
  const kept = keep ? ` from there: it is kept in ${task === 'export' ? 'exports' : 'analyses'}` : '';
  return (
    <p className="text-sm text-muted">
      {about && `${about} `}
      {task === 'pre-render'
        ? 'The pictures of the stretch, without sound, every frame a key frame. They are decoded whole and held against what went in before they count. Playback and exports use them only where they are told to, and not any more once their part of the timeline has changed.'
        : `The result is decoded whole and held against what went in before its time counts; it goes to a folder of its own on the volume and is removed afterwards${kept}.`}
      {simulatedEncoder &&
        ' The encoder is simulated: its pictures are encoded in software before, and given out at the times of its model.'}
      {simulatedVolume && ' The volume is simulated: writes are held to the times of its model.'}
    </p>
  );
}

/** Slots of the timeline or clip that are worked on. */
function Stretch() {
  return (
    <>
      <FormNumberField name="from" label="From slot" placeholder="0" />
      <FormNumberField name="to" label="Up to slot" placeholder="the end" />
    </>
  );
}

/** A task as it is chosen; figures are text. */
interface Typed extends Record<'targetVolumeId' | 'from' | 'to' | 'threads', string> {
  readonly intermediate: IntermediateId;
  readonly read: 'originals' | 'proxies';
  readonly prerendered: 'anew' | 'use';
  readonly warm: 'cold' | 'warm';
  readonly keep: boolean;
  readonly likeness: boolean;
}

const taskInputs = { export: exportInput, 'pre-render': prerenderInput, analysis: analysisInput };
