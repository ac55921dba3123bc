'use client';
import { useRouter } from 'next/navigation';
import { useMemo, useRef, useState } from 'react';
import { rampInput } from '@/core/kinds/ramp';
import { scrubInput } from '@/core/kinds/scrub';
import { builtInGestures } from '@/core/scrub/gesture';
import type { PlaybackScale } from '@/core/playback/slots';
import type { TimelineKind } from '@/core/kinds/kinds';
import type { TimelineListRow } from '@/db/queries/timelines';
import type { LibraryClip } from '@/server/library/clipList';
import type { ListPart } from '@/server/trials/trialList';
import { Folded, Form, FormChoice, FormNumberField, FormProblems, FormSelect } from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { ClipChoice } from '../parts/ClipChoice';
import { clipSubject, SubjectChoice, timelineSubject, type Subject } from '../parts/SubjectChoice';
import { useWorkedIn } from '../parts/WorkedIn';
import { Choice, readsOptions, scaleOptions } from '../parts/Choice';
import { Empty } from '../parts/Empty';
import { useDecodedBy, type DeviceChoice } from '../parts/DecodedBy';
import { useReadAs } from '../parts/ReadAs';
import { figure, FormError } from '../parts/Field';
import { TrialList } from '../trials/TrialList';
import { useSend } from '../useSend';
import { gestureWords } from './testWords';
import { CheckField } from '../parts/Checkbox';
import { toggled } from '@/core/toggled';

interface TestsViewProps {
  readonly list: ListPart;
  readonly timelines: TimelineListRow[];
  readonly firstClip: LibraryClip | null;
  readonly devices: readonly DeviceChoice[];
  readonly gestures: readonly { readonly id: string; readonly name: string }[];
  readonly wantedTimelineId: string | null;
}

/** Scrub trials, load ramps and calibrations: started here, laid over each other from here. */
export function TestsView({
  list,
  timelines,
  firstClip,
  devices,
  gestures,
  wantedTimelineId,
}: TestsViewProps) {
  const router = useRouter();
  const [kind, setKind] = useState<TimelineKind>('scrub');
  return (
    <div className="flex flex-col gap-5">
      <h1>How does it feel, and where is the edge?</h1>
      <section aria-label="Start" className="border bg-surface p-4">
        <Choice
          label="Measure"
          value={kind}
          onChange={setKind}
          options={[
            ['scrub', 'Scrubbing'],
            ['ramp', 'Load until it drops'],
            ['calibration', 'What effects cost'],
          ]}
        />
        <div className="mt-3">
          {kind === 'scrub' && (
            <ScrubForm
              timelines={timelines}
              firstClip={firstClip}
              devices={devices}
              gestures={gestures}
              wantedTimelineId={wantedTimelineId}
            />
          )}
          {kind === 'ramp' && <RampForm firstClip={firstClip} devices={devices} />}
          {kind === 'calibration' && <CostsForm firstClip={firstClip} />}
        </div>
      </section>
      <TrialList
        list={list}
        label="Scrub trials and ramps"
        figures={['latencyP50']}
        fileName="navvy-scrub-and-load"
        actions={(chosen) => {
          const scrubs = chosen.filter(({ kind: of, status }) => of === 'scrub' && status === 'done');
          return (
            <Button
              className="h-8"
              disabled={scrubs.length < 2}
              title={scrubs.length < 2 ? 'Choose at least two finished scrub trials' : undefined}
              onClick={() =>
                router.push(`/timelines/tests/compare?ids=${scrubs.map(({ id }) => id).join(',')}`)
              }
            >
              Compare {scrubs.length} scrub trials
            </Button>
          );
        }}
        empty={
          <Empty title="Nothing measured yet">
            A scrub trial plays a movement of the playhead and measures how long each picture takes. A ramp
            adds streams or grades until slots drop.
          </Empty>
        }
      />
    </div>
  );
}

function ScrubForm({
  timelines,
  firstClip,
  devices,
  gestures,
  wantedTimelineId,
}: Omit<TestsViewProps, 'list'>) {
  const router = useRouter();
  const subjects = useMemo(() => timelines.map(timelineSubject), [timelines]);
  const [target, setTarget] = useState<Subject | null>(
    () => subjects.find(({ id }) => id === wantedTimelineId) ?? (firstClip && clipSubject(firstClip)),
  );
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(['slow-drag']));
  const { workedIn, choices: workedChoices } = useWorkedIn();
  const { readAs, fields: readFields } = useReadAs();
  const { decodeOn, field: decodedBy } = useDecodedBy(devices);
  /** The recorded gesture that is asked for; null: the built-in ones. */
  const recorded = useRef<string | null>(null);
  const scrubbing = useRequestForm<'POST /api/trials', ScrubTyped>('POST /api/trials', {
    schema: scrubInput,
    defaults: { scale: 'full', read: 'originals', speed: '4', seed: '1' },
    bodyOf: ({ scale, read, speed, seed }) => ({
      kind: 'scrub',
      ...(target?.kind === 'timeline' ? { timelineId: target.id } : { clipId: target?.id ?? '' }),
      scale,
      read,
      speed: Number(speed),
      seed: figure(seed),
      ...readAs,
      ...workedIn,
      decodeOn,
      ...(recorded.current === null
        ? { gestures: builtInGestures.filter((kind) => chosen.has(kind)) }
        : { gestures: ['recorded' as const], gestureId: recorded.current }),
    }),
  });
  const toggle = (id: string) => setChosen((before) => toggled(before, id));
  /** The built-in gestures are asked for together, each recorded one by itself. */
  const start = async () => {
    const ids: string[] = [];
    const ownGestures = [...chosen].filter((id) => id.startsWith('g:')).map((id) => id.slice(2));
    const isBuiltIn = builtInGestures.some((kind) => chosen.has(kind));
    for (const gesture of [...(isBuiltIn ? [null] : []), ...ownGestures]) {
      recorded.current = gesture;
      ids.push(...((await scrubbing.send())?.ids ?? []));
    }
    recorded.current = null;
    if (ids.length === 1) router.push(`/timelines/tests/${ids[0]}`);
  };
  return (
    <Form of={scrubbing} label="Scrub trial" className="flex flex-col gap-3" onSubmit={start}>
      <div className="flex flex-wrap items-end gap-3">
        <SubjectChoice label="Clip or timeline" value={target} onChange={setTarget} others={subjects} />
        <FormChoice name="scale" label="Playback scale" options={scaleOptions} />
        <FormChoice name="read" label="Reads" options={readsOptions} />
        <Button look="main" type="submit" disabled={scrubbing.busy || target === null || chosen.size === 0}>
          Scrub and measure
        </Button>
      </div>
      <Gestures gestures={gestures} chosen={chosen} toggle={toggle} />
      <Folded summary="Further conditions" names={['speed', 'seed', 'underWay', 'decodeOn']}>
        <FormSelect name="speed" label="Shuttle speed" options={shuttleSpeeds} className="w-28" />
        <FormNumberField name="seed" label="Seed" className="w-24" />
        {readFields(scrubbing.isWrong('underWay'))}
        {workedChoices()}
        {decodedBy(scrubbing.isWrong('decodeOn'))}
      </Folded>
      <FormProblems />
    </Form>
  );
}

/** Those built in and those that were recorded. */
function Gestures({
  gestures,
  chosen,
  toggle,
}: Pick<TestsViewProps, 'gestures'> & { chosen: ReadonlySet<string>; toggle: (id: string) => void }) {
  return (
    <fieldset className="flex flex-wrap gap-x-5 gap-y-1 text-sm">
      <legend className="mb-1 text-xs text-muted">Gestures</legend>
      {[
        ...builtInGestures.map((gesture) => [gesture, gestureWords[gesture]] as const),
        ...gestures.map(({ id, name }) => [`g:${id}`, `recorded: ${name}`] as const),
      ].map(([id, name]) => (
        <CheckField key={id} className="" checked={chosen.has(id)} onChange={() => toggle(id)}>
          {name}
        </CheckField>
      ))}
    </fieldset>
  );
}

/** A scrub trial as it is chosen; figures are text. */
interface ScrubTyped extends Record<'speed' | 'seed', string> {
  readonly scale: PlaybackScale;
  readonly read: 'originals' | 'proxies';
}

const shuttleSpeeds = [
  ['2', '2x'],
  ['4', '4x'],
  ['8', '8x'],
  ['-2', '2x back'],
  ['-4', '4x back'],
  ['-8', '8x back'],
] as const;

function RampForm({
  firstClip,
  devices,
}: {
  firstClip: LibraryClip | null;
  devices: readonly DeviceChoice[];
}) {
  const router = useRouter();
  const { decodeOn, field: decodedBy } = useDecodedBy(devices);
  const { readAs, fields: readFields } = useReadAs();
  const { workedIn, choices: workedChoices } = useWorkedIn();
  const [clip, setClip] = useState(firstClip);
  const [chosen, setChosen] = useState<ReadonlySet<PlaybackScale>>(new Set(['full', 'half', 'quarter']));
  const ramping = useRequestForm<'POST /api/trials', RampTyped>('POST /api/trials', {
    schema: rampInput,
    defaults: { family: 'streams', most: '16', seconds: '3' },
    bodyOf: ({ family, most, seconds }) => ({
      kind: 'ramp',
      clipId: clip?.id ?? '',
      family,
      ...readAs,
      ...workedIn,
      decodeOn,
      most: figure(most),
      seconds: figure(seconds),
      scales: scaleOptions.map(([scale]) => scale).filter((scale) => chosen.has(scale)),
    }),
  });
  return (
    <Form
      of={ramping}
      label="Load ramp"
      className="flex flex-wrap items-start gap-3"
      onSubmit={async () => {
        const begun = await ramping.send();
        if (begun) router.push(`/timelines/tests/${begun.id}`);
      }}
    >
      <ClipChoice value={clip} onChange={setClip} />
      <FormChoice
        name="family"
        label="Add"
        options={[
          ['streams', 'Streams side by side'],
          ['grades', 'Grades'],
        ]}
      />
      <FormNumberField name="most" label="At most" className="w-20" />
      <FormNumberField name="seconds" label="Play each" unit="s" className="w-20" />
      <fieldset className="flex gap-3 text-sm">
        <legend className="mb-1 text-xs text-muted">At scale</legend>
        {scaleOptions.map(([scale, name]) => (
          <CheckField
            key={scale}
            checked={chosen.has(scale)}
            onChange={() => setChosen((before) => toggled(before, scale))}
          >
            {name}
          </CheckField>
        ))}
      </fieldset>
      {readFields(ramping.isWrong('underWay'))}
      {workedChoices()}
      {decodedBy(ramping.isWrong('decodeOn'))}
      <Button
        look="main"
        type="submit"
        disabled={ramping.busy || clip === null || chosen.size === 0}
        className="mt-5"
      >
        Find the edge
      </Button>
      <FormProblems />
    </Form>
  );
}

/** A ramp as it is chosen; figures are text. */
interface RampTyped extends Record<'most' | 'seconds', string> {
  readonly family: 'streams' | 'grades';
}

function CostsForm({ firstClip }: { firstClip: LibraryClip | null }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [clip, setClip] = useState(firstClip);
  const start = async () => {
    const begun = await send('POST /api/trials', { body: { kind: 'calibration', clipId: clip?.id ?? '' } });
    if (begun) router.push(`/timelines/tests/${begun.id}`);
  };
  return (
    <form
      aria-label="Calibration"
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <ClipChoice label="On the first frame of" value={clip} onChange={setClip} />
      <Button look="main" type="submit" disabled={busy || clip === null}>
        Measure every effect
      </Button>
      <FormError message={error?.message} />
      <p className="w-full text-xs text-muted">
        Each effect is run on a decoded frame at full, half and quarter scale. Forecasts of timelines use the
        newest calibration.
      </p>
    </form>
  );
}
