'use client';
import { Play } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useState } from 'react';
import { useFormContext, useWatch } from 'react-hook-form';
import { planInput } from '@/core/asked/plans';
import { softwareId } from '@/core/decode/decoding';
import { clockTime, count, size } from '@/core/format';
import { kindNames, taskKinds, type TaskKind } from '@/core/kinds/kinds';
import { cacheWays, type CacheWay } from '@/core/media/coldProof';
import { withOtherNames } from '@/core/media/fileName';
import { formatLabel } from '@/core/media/format';
import {
  planForms,
  planTests,
  type PlanForm as PlanInputForm,
  type PlanOrder,
  type PlanTest,
} from '@/core/plan/matrix';
import { planQuestions, type PlanQuestion } from '@/core/plan/questions';
import type { PlaybackScale } from '@/core/playback/slots';
import { plainName } from '@/core/simulated';
import { toggled } from '@/core/toggled';
import type { PlanChoices } from '@/server/decide/planChoices';
import type { PlanPreview } from '@/server/decide/plans';
import { apiErrorOf, callApi } from '../api';
import {
  Folded,
  Form,
  FormChoice,
  FormNumberField,
  FormProblems,
  FormTextField,
  useFormMessage,
} from '../form/Form';
import { useFormUndo } from '../form/useFormUndo';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { CheckField } from '../parts/Checkbox';
import { cacheOptions, scaleOptions } from '../parts/Choice';
import { FieldMessage, figure } from '../parts/Field';
import { PickList } from '../parts/PickList';
import { SelectField } from '../parts/Select';
import { usualMostMadeUp } from './words';

/** A matrix as it is put together; figures are text. Fields have the names that they have in what is sent. */
interface Typed extends Record<'question' | 'name' | 'repeats' | 'mostMadeUp' | 'seed', string> {
  /** As `clip:ID` or `timeline:ID`. */
  readonly subjects: readonly string[];
  readonly volumeIds: readonly string[];
  readonly forms: readonly PlanInputForm[];
  readonly scales: readonly PlaybackScale[];
  readonly deviceIds: readonly string[];
  readonly caches: readonly CacheWay[];
  readonly tests: readonly PlanTest[];
  readonly order: PlanOrder;
  readonly warm: 'cold' | 'warm';
}

/** What tasks of a matrix write; % stands for the volumes. */
const taskWords: Readonly<Record<TaskKind, string>> = {
  export: 'Exports are made as review copies, written to %, and removed after each run.',
  'pre-render':
    'Pre-renders are made as ProRes LT on %. They stay, each in place of the one before, until they are removed from their timeline.',
  analysis: 'Analyses follow 200 points; their pictures are written to % and removed after each run.',
};

/** A matrix as the server takes it. */
const requestOf = ({ subjects, volumeIds, forms, scales, deviceIds, caches, tests, ...typed }: Typed) => ({
  question: typed.question,
  name: typed.name,
  volumeIds: [...volumeIds],
  forms: [...forms],
  scales: [...scales],
  deviceIds: [...deviceIds],
  caches: [...caches],
  tests: [...tests],
  repeats: figure(typed.repeats),
  mostMadeUp: figure(typed.mostMadeUp),
  order: typed.order,
  seed: figure(typed.seed),
  warm: typed.warm === 'warm',
  subjects: subjects.map((key) => {
    const [kind, ...id] = key.split(':');
    return { kind: kind === 'timeline' ? kind : 'clip', id: id.join(':') } as const;
  }),
});

/** What a ready-made question asks for, of what is there; of an own matrix, what stood before. */
function typedFor(
  questionId: string,
  choices: PlanChoices,
  before: Typed | null,
  wanted: string | null,
): Typed {
  const question: PlanQuestion | undefined = planQuestions.find(({ id }) => id === questionId);
  const first = choices.clips[0];
  const subjects =
    before && before.subjects.length > 0
      ? before.subjects
      : wanted
        ? [wanted]
        : first
          ? [`clip:${first.id}`]
          : [];
  const home =
    choices.clips.find(({ id }) => subjects.includes(`clip:${id}`))?.volumeId ?? choices.volumes[0]?.id;
  const volumes =
    question?.volumes === 'all'
      ? choices.volumes.map(({ id }) => id)
      : question?.volumes === 'one' && home
        ? [home]
        : [];
  return {
    question: questionId,
    name: '',
    subjects,
    volumeIds: question ? volumes : (before?.volumeIds ?? []),
    forms: question?.forms ?? before?.forms ?? ['originals'],
    scales: question?.scales ?? before?.scales ?? ['full'],
    deviceIds: question
      ? [softwareId, ...(question.devices === 'all' ? choices.devices.map(({ id }) => id) : [])]
      : (before?.deviceIds ?? [softwareId]),
    caches: question ? (question.caches === 'both' ? cacheWays : ['past']) : (before?.caches ?? ['past']),
    tests: question?.tests ?? before?.tests ?? ['playback'],
    repeats: String(question?.repeats ?? before?.repeats ?? 3),
    mostMadeUp: before?.mostMadeUp ?? String(usualMostMadeUp),
    order: before?.order ?? 'interleaved',
    seed: before?.seed ?? '1',
    warm: before?.warm ?? 'cold',
  };
}

/** Builds a matrix from a ready-made question or freely, and says what it will do before it starts. */
export function PlanForm({
  choices,
  wanted,
  question: wantedQuestion = null,
}: {
  choices: PlanChoices;
  /** A clip or timeline to begin with, as `clip:ID` or `timeline:ID`. */
  wanted: string | null;
  /** A ready-made question to begin with. */
  question?: string | null;
}) {
  const router = useRouter();
  const planning = useRequestForm<'POST /api/plans', Typed>('POST /api/plans', {
    schema: planInput,
    defaults: typedFor(
      planQuestions.find(({ id }) => id === wantedQuestion)?.id ?? planQuestions[0].id,
      choices,
      null,
      wanted,
    ),
    bodyOf: requestOf,
  });
  const { form } = planning;
  useFormUndo(form, 'Matrix');
  const typed = useTyped(planning);
  const { preview, problem } = usePreview(typed);
  const question = planQuestions.find(({ id }) => id === typed.question);
  const set = (key: 'subjects' | 'volumeIds', chosen: ReadonlySet<string>) =>
    form.setValue(key, [...chosen] as never, { shouldValidate: form.formState.isSubmitted });
  return (
    <Form
      of={planning}
      label="New matrix"
      className="flex flex-col gap-4 border bg-surface p-4"
      onSubmit={async () => {
        const made = await planning.send();
        if (made) router.push(`/trials/plans/${made.id}`);
      }}
    >
      <SelectField
        label="Question"
        value={typed.question}
        onChange={(id) => form.reset(typedFor(id, choices, typed, null), { keepDefaultValues: true })}
        options={[
          ...planQuestions.map(({ id, name }) => [id, name] as const),
          ['own', 'Custom matrix'] as const,
        ]}
        className="max-w-xl"
      />
      {question && <p className="-mt-2 text-sm text-muted">{question.says}</p>}
      <What choices={choices} typed={typed} set={set} />
      <Conditions choices={choices} />
      <Finer placeholder={question?.name ?? 'Custom matrix'} order={typed.order} warm={typed.warm} />
      <PreviewLines preview={preview} problem={problem} />
      <FormProblems />
      <div>
        <Button look="main" type="submit" disabled={planning.busy || !preview || preview.runs === 0}>
          <Play aria-hidden className="size-4" />
          {preview && preview.runs > 0
            ? `Start ${count(preview.runs)} ${preview.runs === 1 ? 'run' : 'runs'}`
            : 'Start'}
        </Button>
      </div>
    </Form>
  );
}

/** What is played, and from where. */
function What({
  choices,
  typed: { subjects, volumeIds },
  set,
}: {
  choices: PlanChoices;
  typed: Pick<Typed, 'subjects' | 'volumeIds'>;
  set: (key: 'subjects' | 'volumeIds', chosen: ReadonlySet<string>) => void;
}) {
  return (
    <>
      <div className="grid gap-4 lg:grid-cols-[3fr_2fr]">
        <PickList
          label="Clips and timelines"
          items={useSubjects(choices)}
          chosen={useMemo(() => new Set(subjects), [subjects])}
          onChange={(next) => set('subjects', next)}
          empty="No clip can be played yet. Add a volume under Storage."
        />
        <PickList
          label="Volumes"
          items={choices.volumes.map(({ id, name, simulated }) => ({
            id,
            name,
            note: simulated ? 'simulated' : '',
          }))}
          chosen={useMemo(() => new Set(volumeIds), [volumeIds])}
          onChange={(next) => set('volumeIds', next)}
          empty="No volume yet. Add one under Storage."
        />
      </div>
      {volumeIds.length === 0 && (
        <p className="-mt-2 text-xs text-muted">No volume chosen: each clip is read from where it lies.</p>
      )}
    </>
  );
}

/** Clips and timelines to choose from. */
function useSubjects(choices: PlanChoices) {
  return useMemo(
    () => [
      ...choices.clips.map(({ id, name, also, proxy, volumeName, format }) => ({
        id: `clip:${id}`,
        name: withOtherNames(name, also),
        note: `${proxy ? 'proxy; ' : ''}${formatLabel(format)}; ${volumeName}`,
      })),
      ...choices.timelines.map(({ id, name }) => ({ id: `timeline:${id}`, name, note: 'timeline' })),
    ],
    [choices],
  );
}

/** What is tried of each subject, in which forms, and how often. */
function Conditions({ choices }: { choices: PlanChoices }) {
  return (
    <div className="flex flex-wrap items-start gap-x-5 gap-y-3">
      <Boxes name="tests" label="Tests" options={planTests.map((test) => [test, kindNames[test]] as const)} />
      <Boxes
        name="forms"
        label="Forms"
        options={planForms.map((form) => [form, form === 'originals' ? 'Originals' : 'Proxies'] as const)}
      />
      <Boxes name="scales" label="Playback scales" options={scaleOptions} />
      {choices.devices.length > 0 && (
        <Boxes
          name="deviceIds"
          label="Decoded by"
          options={[
            [softwareId, 'Software'] as const,
            ...choices.devices.map(({ id, name, simulated }) => [id, plainName(name, simulated)] as const),
          ]}
        />
      )}
      <FormNumberField name="repeats" label="Repeats" className="w-20" />
      <FormNumberField name="mostMadeUp" label="More for runs in doubt" className="w-36" />
    </div>
  );
}

/** Its name, and in what order and how cold its runs are. */
function Finer({ placeholder, order, warm }: { placeholder: string } & Pick<Typed, 'order' | 'warm'>) {
  return (
    <Folded summary="Name, order and cache" names={['name', 'order', 'seed', 'warm', 'caches']}>
      <FormTextField name="name" label="Name" placeholder={placeholder} className="w-80" />
      <FormChoice
        name="order"
        label="Order"
        options={[
          ['interleaved', 'Interleaved, back and forth'],
          ['random', 'Random, from the seed'],
        ]}
      />
      {order === 'random' && <FormNumberField name="seed" label="Seed" />}
      <FormChoice name="warm" label="System cache" options={cacheOptions} />
      {warm === 'cold' && (
        <Boxes
          name="caches"
          label="Cold files are read"
          options={[
            ['past', 'Past the cache'],
            ['through', 'Through it'],
          ]}
        />
      )}
    </Folded>
  );
}

/** Several of a few, all in sight. */
function Boxes({
  name,
  label,
  options,
}: {
  name: keyof Typed;
  label: string;
  options: readonly (readonly [string, string])[];
}) {
  const { setValue, formState } = useFormContext<Typed>();
  const chosen = useWatch<Typed>({ name }) as readonly string[];
  const message = useFormMessage(name);
  return (
    <fieldset>
      <legend className="mb-1 text-xs text-muted">{label}</legend>
      <div className="flex h-9 items-center gap-3 border border-edge px-3">
        {options.map(([value, text]) => (
          <CheckField
            key={value}
            className=""
            checked={chosen.includes(value)}
            onChange={() =>
              setValue(name, [...toggled(new Set(chosen), value)] as never, {
                shouldValidate: formState.isSubmitted,
              })
            }
          >
            {text}
          </CheckField>
        ))}
      </div>
      <FieldMessage message={message} />
    </fieldset>
  );
}

const previewDelayMs = 250;

/** What the server says a matrix would do; asked shortly after the last change. */
function usePreview(typed: Typed): { preview: PlanPreview | null; problem: string | null } {
  const [said, setSaid] = useState<{ preview: PlanPreview | null; problem: string | null }>({
    preview: null,
    problem: null,
  });
  useEffect(() => {
    let stale = false;
    const timer = setTimeout(() => {
      callApi('POST /api/plans/preview', { body: requestOf(typed) }).then(
        (preview) => {
          if (!stale) setSaid({ preview, problem: null });
        },
        (failure: unknown) => {
          if (!stale)
            setSaid({
              preview: null,
              problem: apiErrorOf(failure).message,
            });
        },
      );
    }, previewDelayMs);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [typed]);
  return said;
}

function PreviewLines({ preview, problem }: { preview: PlanPreview | null; problem: string | null }) {
  if (problem)
    return (
      <p role="status" className="border-l-4 border-signal pl-3 text-sm">
        {problem}
      </p>
    );
  if (!preview)
    return (
      <p role="status" className="text-sm text-muted">
        Counting the runs …
      </p>
    );
  return (
    <div role="status" className="text-sm">
      <p>
        <span className="font-semibold">
          {count(preview.cells.length)} {preview.cells.length === 1 ? 'condition' : 'conditions'},{' '}
          {count(preview.runs)} {preview.runs === 1 ? 'run' : 'runs'}, about {clockTime(preview.expectedMs)}
        </span>{' '}
        <span className="text-muted">unattended; the time is corrected as runs end.</span>
      </p>
      {taskKinds.map((kind) => {
        const volumes = preview.tasks[kind];
        return (
          volumes && (
            <p key={kind} className="mt-1 border-l-4 border-signal pl-3">
              {taskWords[kind].replace('%', volumes.join(', '))}
            </p>
          )
        );
      })}
      {preview.writes && (
        <p className="mt-1 border-l-4 border-signal pl-3">
          Throughput writes a test file of {size(preview.writes.bytes)} to {preview.writes.volumes.join(', ')}{' '}
          and removes it.
        </p>
      )}
      {preview.leftOut.length > 0 && (
        <details className="mt-1">
          <summary className="w-fit">
            {count(preview.leftOut.length)} {preview.leftOut.length === 1 ? 'condition is' : 'conditions are'}{' '}
            left out
          </summary>
          <ul className="mt-1 max-h-40 list-disc overflow-y-auto pl-5 text-muted">
            {preview.leftOut.map(({ what, reason }) => (
              <li key={what}>
                {what}: {reason}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
