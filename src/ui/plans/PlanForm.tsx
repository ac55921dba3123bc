'use client';
import { clockTime, count, size } from '@/core/format';
import { withOtherNames } from '@/core/media/fileName';
import { Play } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useState } from 'react';
import { formatLabel } from '@/core/media/format';
import {
  planForms,
  planTests,
  type PlanForm as Form,
  type PlanOrder,
  type PlanTest,
} from '@/core/plan/matrix';
import { cacheWays, type CacheWay } from '@/core/media/coldProof';
import { softwareId } from '@/core/decode/decoding';
import { plainName } from '@/core/simulated';
import { planQuestions, type PlanQuestion } from '@/core/plan/questions';
import type { PlaybackScale } from '@/core/playback/slots';
import type { PlanPreview } from '@/server/decide/plans';
import type { PlanChoices } from '@/server/decide/planChoices';
import { ApiError, callApi } from '../api';
import { Button } from '../parts/Button';
import { CacheChoice, Choice, scaleOptions } from '../parts/Choice';
import { FormError, figure, NumberField, TextField } from '../parts/Field';
import { PickList } from '../parts/PickList';
import { useSend } from '../useSend';
import { useUndo } from '../useUndo';
import { kindNames, taskKinds, type TaskKind } from '@/core/kinds/kinds';
import { usualMostMadeUp } from './words';
import { CheckField } from '../parts/Checkbox';
import { toggled } from '@/core/toggled';
import { SelectField } from '../parts/Select';

interface Draft {
  readonly question: string;
  readonly name: string;
  readonly subjects: ReadonlySet<string>;
  readonly volumes: ReadonlySet<string>;
  readonly forms: ReadonlySet<Form>;
  readonly scales: ReadonlySet<PlaybackScale>;
  readonly devices: ReadonlySet<string>;
  readonly caches: ReadonlySet<CacheWay>;
  readonly tests: ReadonlySet<PlanTest>;
  readonly repeats: string;
  readonly mostMadeUp: string;
  readonly order: PlanOrder;
  readonly seed: string;
  readonly cache: 'cold' | 'warm';
}

/** What tasks of a matrix write; % stands for the volumes. */
const taskWords: Readonly<Record<TaskKind, string>> = {
  export: 'Exports are made as review copies, written to %, and removed after each run.',
  'pre-render':
    'Pre-renders are made as ProRes LT on %. They stay, each in place of the one before, until they are removed from their timeline.',
  analysis: 'Analyses follow 200 points; their pictures are written to % and removed after each run.',
};

/** A draft as the server takes it. */
function requestOf({
  question,
  name,
  subjects,
  volumes,
  forms,
  scales,
  devices,
  caches,
  tests,
  repeats,
  mostMadeUp,
  order,
  seed,
  cache,
}: Draft) {
  return {
    question,
    name,
    volumeIds: [...volumes],
    forms: [...forms],
    scales: [...scales],
    deviceIds: [...devices],
    caches: [...caches],
    tests: [...tests],
    repeats: figure(repeats),
    mostMadeUp: figure(mostMadeUp),
    order,
    seed: figure(seed),
    warm: cache === 'warm',
    subjects: [...subjects].map((key) => {
      const [kind, ...id] = key.split(':');
      return { kind: kind === 'timeline' ? kind : 'clip', id: id.join(':') } as const;
    }),
  };
}

function draftFor(
  questionId: string,
  choices: PlanChoices,
  before: Draft | null,
  wanted: string | null,
): Draft {
  const question: PlanQuestion | undefined = planQuestions.find(({ id }) => id === questionId);
  const first = choices.clips[0];
  const subjects =
    before && before.subjects.size > 0
      ? before.subjects
      : new Set(wanted ? [wanted] : first ? [`clip:${first.id}`] : []);
  const home = choices.clips.find(({ id }) => subjects.has(`clip:${id}`))?.volumeId ?? choices.volumes[0]?.id;
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
    volumes: new Set(question ? volumes : (before?.volumes ?? [])),
    forms: new Set(question?.forms ?? before?.forms ?? ['originals']),
    scales: new Set(question?.scales ?? before?.scales ?? ['full']),
    devices: question
      ? new Set([softwareId, ...(question.devices === 'all' ? choices.devices.map(({ id }) => id) : [])])
      : (before?.devices ?? new Set([softwareId])),
    caches: question
      ? new Set(question.caches === 'both' ? cacheWays : (['past'] as const))
      : (before?.caches ?? new Set(['past'] as const)),
    tests: new Set(question?.tests ?? before?.tests ?? ['playback']),
    repeats: String(question?.repeats ?? before?.repeats ?? 3),
    mostMadeUp: before?.mostMadeUp ?? String(usualMostMadeUp),
    order: before?.order ?? 'interleaved',
    seed: before?.seed ?? '1',
    cache: before?.cache ?? 'cold',
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
  const { value: draft, set: edit } = useUndo<Draft>(
    draftFor(
      planQuestions.find(({ id }) => id === wantedQuestion)?.id ?? planQuestions[0].id,
      choices,
      null,
      wanted,
    ),
    'Matrix',
  );
  const { busy, error, send } = useSend();
  const { preview, problem } = usePreview(draft);
  const set = <Key extends keyof Draft>(key: Key, value: Draft[Key]) =>
    edit((now) => ({ ...now, [key]: value }), `Change ${key}`, typeof value === 'string' ? key : null);
  const start = () => {
    void send('POST /api/plans', { body: requestOf(draft) }).then((made) => {
      if (made) router.push(`/trials/plans/${made.id}`);
    });
  };
  const subjects = useMemo(
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
  const question = planQuestions.find(({ id }) => id === draft.question);
  return (
    <form
      aria-label="New matrix"
      className="flex flex-col gap-4 border bg-surface p-4"
      onSubmit={(event) => {
        event.preventDefault();
        start();
      }}
    >
      <SelectField
        label="Question"
        value={draft.question}
        onChange={(id) => edit((now) => draftFor(id, choices, now, null), 'Change the question')}
        options={[
          ...planQuestions.map(({ id, name }) => [id, name] as const),
          ['own', 'Custom matrix'] as const,
        ]}
        className="max-w-xl"
      />
      {question && <p className="-mt-2 text-sm text-muted">{question.says}</p>}
      <div className="grid gap-4 lg:grid-cols-[3fr_2fr]">
        <PickList
          label="Clips and timelines"
          items={subjects}
          chosen={draft.subjects}
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
          chosen={draft.volumes}
          onChange={(next) => set('volumes', next)}
          empty="No volume yet. Add one under Storage."
        />
      </div>
      {draft.volumes.size === 0 && (
        <p className="-mt-2 text-xs text-muted">No volume chosen: each clip is read from where it lies.</p>
      )}
      <div className="flex flex-wrap items-end gap-x-5 gap-y-3">
        <Boxes
          label="Tests"
          options={planTests.map((test) => [test, kindNames[test]] as const)}
          chosen={draft.tests}
          onChange={(next) => set('tests', next)}
        />
        <Boxes
          label="Forms"
          options={planForms.map((form) => [form, form === 'originals' ? 'Originals' : 'Proxies'] as const)}
          chosen={draft.forms}
          onChange={(next) => set('forms', next)}
        />
        <Boxes
          label="Playback scales"
          options={scaleOptions}
          chosen={draft.scales}
          onChange={(next) => set('scales', next)}
        />
        {choices.devices.length > 0 && (
          <Boxes
            label="Decoded by"
            options={[
              [softwareId, 'Software'] as const,
              ...choices.devices.map(({ id, name, simulated }) => [id, plainName(name, simulated)] as const),
            ]}
            chosen={draft.devices}
            onChange={(next) => set('devices', next)}
          />
        )}
        <NumberField
          label="Repeats"
          value={draft.repeats}
          onChange={(value) => set('repeats', value)}
          invalid={error?.field === 'repeats'}
          className="w-20"
        />
        <NumberField
          label="More for runs in doubt"
          value={draft.mostMadeUp}
          onChange={(value) => set('mostMadeUp', value)}
          invalid={error?.field === 'mostMadeUp'}
          className="w-36"
        />
      </div>
      <details>
        <summary className="w-fit text-sm text-muted hover:text-ink">Name, order and cache</summary>
        <div className="mt-2 flex flex-wrap items-end gap-4">
          <TextField
            label="Name"
            value={draft.name}
            onChange={(value) => set('name', value)}
            placeholder={question?.name ?? 'Custom matrix'}
            className="w-80"
          />
          <Choice
            label="Order"
            value={draft.order}
            onChange={(value) => set('order', value)}
            options={[
              ['interleaved', 'Interleaved, back and forth'],
              ['random', 'Random, from the seed'],
            ]}
          />
          {draft.order === 'random' && (
            <NumberField label="Seed" value={draft.seed} onChange={(value) => set('seed', value)} />
          )}
          <CacheChoice value={draft.cache} onChange={(value) => set('cache', value)} />
          {draft.cache === 'cold' && (
            <Boxes
              label="Cold files are read"
              options={[
                ['past', 'Past the cache'],
                ['through', 'Through it'],
              ]}
              chosen={draft.caches}
              onChange={(next) => set('caches', next)}
            />
          )}
        </div>
      </details>
      <PreviewLines preview={preview} problem={problem} />
      <div className="flex items-center gap-4">
        <Button look="main" type="submit" disabled={busy || !preview || preview.runs === 0}>
          <Play aria-hidden className="size-4" />
          {preview && preview.runs > 0
            ? `Start ${count(preview.runs)} ${preview.runs === 1 ? 'run' : 'runs'}`
            : 'Start'}
        </Button>
        <FormError message={error?.message} />
      </div>
    </form>
  );
}

function Boxes<Value extends string>({
  label,
  options,
  chosen,
  onChange,
}: {
  label: string;
  options: readonly (readonly [Value, string])[];
  chosen: ReadonlySet<Value>;
  onChange: (chosen: ReadonlySet<Value>) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1 text-xs text-muted">{label}</legend>
      <div className="flex h-9 items-center gap-3 border border-edge px-3">
        {options.map(([value, name]) => (
          <CheckField
            key={value}
            className=""
            checked={chosen.has(value)}
            onChange={() => onChange(toggled(chosen, value))}
          >
            {name}
          </CheckField>
        ))}
      </div>
    </fieldset>
  );
}

const previewDelayMs = 250;

/** What the server says a draft would do; asked shortly after the last change. */
function usePreview(draft: Draft): { preview: PlanPreview | null; problem: string | null } {
  const [said, setSaid] = useState<{ preview: PlanPreview | null; problem: string | null }>({
    preview: null,
    problem: null,
  });
  useEffect(() => {
    let stale = false;
    const timer = setTimeout(() => {
      callApi('POST /api/plans/preview', { body: requestOf(draft) }).then(
        (preview) => {
          if (!stale) setSaid({ preview, problem: null });
        },
        (failure: unknown) => {
          if (!stale)
            setSaid({
              preview: null,
              problem: failure instanceof ApiError ? failure.message : String(failure),
            });
        },
      );
    }, previewDelayMs);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [draft]);
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
