'use client';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { builtInGestures, type BuiltInGesture } from '@/core/scrub/gesture';
import type { PlaybackScale } from '@/core/playback/slots';
import type { TimelineKind } from '@/core/kinds/kinds';
import type { TimelineListRow } from '@/db/queries/timelines';
import type { LibraryClip } from '@/server/library/clipList';
import type { ListPart } from '@/server/trials/trialList';
import { Button } from '../parts/Button';
import { ClipChoice } from '../parts/ClipChoice';
import { clipSubject, SubjectChoice, timelineSubject, type Subject } from '../parts/SubjectChoice';
import { useWorkedIn } from '../parts/WorkedIn';
import { Choice, ReadsChoice, ScaleChoice, scaleOptions } from '../parts/Choice';
import { Empty } from '../parts/Empty';
import { useDecodedBy, type DeviceChoice } from '../parts/DecodedBy';
import { useReadAs } from '../parts/ReadAs';
import { figure, FormError, NumberField } from '../parts/Field';
import { TrialList } from '../trials/TrialList';
import { useSend } from '../useSend';
import { gestureWords } from './testWords';
import { CheckField } from '../parts/Checkbox';
import { toggled } from '@/core/toggled';
import { SelectField } from '../parts/Select';

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
  const { busy, error, send } = useSend();
  const subjects = useMemo(() => timelines.map(timelineSubject), [timelines]);
  const [target, setTarget] = useState<Subject | null>(
    () => subjects.find(({ id }) => id === wantedTimelineId) ?? (firstClip && clipSubject(firstClip)),
  );
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(['slow-drag']));
  const [scale, setScale] = useState<PlaybackScale>('full');
  const [read, setRead] = useState<'originals' | 'proxies'>('originals');
  const [speed, setSpeed] = useState('4');
  const [seed, setSeed] = useState('1');
  const { workedIn, choices: workedChoices } = useWorkedIn();
  const { readAs, fields: readFields } = useReadAs();
  const { decodeOn, field: decodedBy } = useDecodedBy(devices);
  const toggle = (id: string) => setChosen((before) => toggled(before, id));
  const start = async () => {
    const base = {
      ...(target?.kind === 'timeline' ? { timelineId: target.id } : { clipId: target?.id ?? '' }),
      scale,
      read,
      speed: Number(speed),
      seed: figure(seed),
      ...readAs,
      ...workedIn,
      decodeOn,
    };
    const builtIn = builtInGestures.filter((kind) => chosen.has(kind));
    const ids: string[] = [];
    if (builtIn.length > 0)
      ids.push(
        ...((await send('POST /api/trials', { body: { ...base, kind: 'scrub', gestures: builtIn } }))?.ids ??
          []),
      );
    for (const id of chosen)
      if (id.startsWith('g:'))
        ids.push(
          ...((
            await send('POST /api/trials', {
              body: {
                kind: 'scrub',
                ...base,
                gestures: ['recorded'],
                gestureId: id.slice(2),
              },
            })
          )?.ids ?? []),
        );
    if (ids.length === 1) router.push(`/timelines/tests/${ids[0]}`);
  };
  return (
    <form
      aria-label="Scrub trial"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <SubjectChoice label="Clip or timeline" value={target} onChange={setTarget} others={subjects} />
        <ScaleChoice value={scale} onChange={setScale} />
        <ReadsChoice value={read} onChange={setRead} />
        <Button look="main" type="submit" disabled={busy || target === null || chosen.size === 0}>
          Scrub and measure
        </Button>
      </div>
      <fieldset className="flex flex-wrap gap-x-5 gap-y-1 text-sm">
        <legend className="mb-1 text-xs text-muted">Gestures</legend>
        {builtInGestures.map((gesture: BuiltInGesture) => (
          <CheckField
            key={gesture}
            className=""
            checked={chosen.has(gesture)}
            onChange={() => toggle(gesture)}
          >
            {gestureWords[gesture]}
          </CheckField>
        ))}
        {gestures.map(({ id, name }) => (
          <CheckField
            key={id}
            className=""
            checked={chosen.has(`g:${id}`)}
            onChange={() => toggle(`g:${id}`)}
          >
            recorded: {name}
          </CheckField>
        ))}
      </fieldset>
      <details>
        <summary className="w-fit text-sm text-muted hover:text-ink">Further conditions</summary>
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <SelectField
            label="Shuttle speed"
            value={speed}
            onChange={setSpeed}
            options={[
              ['2', '2x'],
              ['4', '4x'],
              ['8', '8x'],
              ['-2', '2x back'],
              ['-4', '4x back'],
              ['-8', '8x back'],
            ]}
            className="w-28"
          />
          <NumberField
            label="Seed"
            value={seed}
            onChange={setSeed}
            invalid={error?.field === 'seed'}
            className="w-24"
          />
          {readFields(error?.field === 'underWay')}
          {workedChoices()}
          {decodedBy(error?.field === 'decodeOn')}
        </div>
      </details>
      <FormError message={error?.message} />
    </form>
  );
}

function RampForm({
  firstClip,
  devices,
}: {
  firstClip: LibraryClip | null;
  devices: readonly DeviceChoice[];
}) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const { decodeOn, field: decodedBy } = useDecodedBy(devices);
  const { readAs, fields: readFields } = useReadAs();
  const [clip, setClip] = useState(firstClip);
  const [family, setFamily] = useState<'streams' | 'grades'>('streams');
  const [most, setMost] = useState('16');
  const { workedIn, choices: workedChoices } = useWorkedIn();
  const [seconds, setSeconds] = useState('3');
  const [chosen, setChosen] = useState<ReadonlySet<PlaybackScale>>(new Set(['full', 'half', 'quarter']));
  const start = async () => {
    const begun = await send('POST /api/trials', {
      body: {
        kind: 'ramp',
        clipId: clip?.id ?? '',
        family,
        ...readAs,
        ...workedIn,
        decodeOn,
        most: figure(most),
        seconds: figure(seconds),
        scales: scaleOptions.map(([scale]) => scale).filter((scale) => chosen.has(scale)),
      },
    });
    if (begun) router.push(`/timelines/tests/${begun.id}`);
  };
  return (
    <form
      aria-label="Load ramp"
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <ClipChoice value={clip} onChange={setClip} />
      <Choice
        label="Add"
        value={family}
        onChange={setFamily}
        options={[
          ['streams', 'Streams side by side'],
          ['grades', 'Grades'],
        ]}
      />
      <NumberField
        label="At most"
        value={most}
        onChange={setMost}
        invalid={error?.field === 'most'}
        className="w-20"
      />
      <NumberField
        label="Play each"
        unit="s"
        value={seconds}
        onChange={setSeconds}
        invalid={error?.field === 'seconds'}
        className="w-20"
      />
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
      {readFields(error?.field === 'underWay')}
      {workedChoices()}
      {decodedBy(error?.field === 'decodeOn')}
      <Button look="main" type="submit" disabled={busy || clip === null || chosen.size === 0}>
        Find the edge
      </Button>
      <FormError message={error?.message} />
    </form>
  );
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
