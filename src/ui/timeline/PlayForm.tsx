'use client';
import { Play } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState, type ReactNode } from 'react';
import { milliseconds } from '@/core/format';
import { timelinePlaybackInput } from '@/core/kinds/playback';
import type { Meanwhile, SoundChoice as Sound } from '@/core/playback/settings';
import type { Policy, PlaybackScale } from '@/core/playback/slots';
import { greatest, least } from '@/core/stats/extremes';
import type { ForecastAnswer } from '@/server/timelines/timelineForecast';
import { callApi } from '../api';
import { Folded, Form, FormChoice, FormNumberField, FormProblems, FormSelect } from '../form/Form';
import { useAskedForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import {
  meanwhileOptions,
  policyOptions,
  prerenderedOptions,
  readsOptions,
  scaleOptions,
  soundOptions,
} from '../parts/Choice';
import { SideBySideLink, useDecodedBy, type DeviceChoice } from '../parts/DecodedBy';
import { figure, figureOrNull } from '../parts/Field';
import { useReadAs } from '../parts/ReadAs';
import { useWorkedIn } from '../parts/WorkedIn';
import { Forecast } from './Forecast';

interface PlayFormProps {
  readonly timelineId: string;
  readonly marks: { readonly in: number | null; readonly out: number | null };
  readonly playhead: number;
  readonly total: number;
  /** Resolves when the timeline is saved, so that what is played is what is seen. */
  readonly beforeStart: () => Promise<void>;
  readonly volumes: readonly (readonly [string, string])[];
  readonly devices: readonly DeviceChoice[];
  /** Decoding the sound of the timeline's clips, ms per second of each; null where it has none. */
  readonly sound: readonly (number | null)[];
}

const speeds = [
  ['1', '1x'],
  ['2', '2x'],
  ['4', '4x'],
  ['8', '8x'],
  ['-1', '1x back'],
  ['-2', '2x back'],
  ['-4', '4x back'],
  ['-8', '8x back'],
] as const;

/** A run as it is chosen; figures are text. */
interface Typed extends Record<'loops' | 'threads' | 'volumeId', string> {
  readonly scale: PlaybackScale;
  readonly read: 'originals' | 'proxies';
  readonly stretch: 'all' | 'playhead' | 'marks';
  readonly speed: (typeof speeds)[number][0];
  readonly policy: Policy;
  readonly sound: Sound;
  readonly meanwhile: Meanwhile;
  readonly prerendered: 'anew' | 'use';
}

const defaults: Typed = {
  scale: 'full',
  read: 'originals',
  stretch: 'all',
  speed: '1',
  loops: '1',
  policy: 'hold-time',
  volumeId: '',
  prerendered: 'anew',
  meanwhile: 'nothing',
  sound: 'on',
  threads: '',
};

/** Slots from and to which is played, the last left out; null: to the end. */
function boundsOf(
  { stretch, speed }: Pick<Typed, 'stretch' | 'speed'>,
  { marks, playhead }: Pick<PlayFormProps, 'marks' | 'playhead'>,
): { readonly from: number; readonly to: number | null } {
  if (stretch === 'marks') return { from: marks.in ?? 0, to: marks.out === null ? null : marks.out + 1 };
  if (stretch === 'all') return { from: 0, to: null };
  return Number(speed) < 0 ? { from: 0, to: playhead + 1 } : { from: playhead, to: null };
}

/** Starts a measured run of the timeline. */
export function PlayForm({
  timelineId,
  marks,
  playhead,
  total,
  beforeStart,
  volumes,
  devices,
  sound,
}: PlayFormProps) {
  const router = useRouter();
  const { readAs, fields: readFields } = useReadAs();
  const { workedIn, choices: workedChoices } = useWorkedIn();
  const { decodeOn, field: decodedBy } = useDecodedBy(devices);
  const playing = useAskedForm({
    schema: timelinePlaybackInput,
    defaults,
    bodyOf: ({ stretch, speed, loops, threads, volumeId, prerendered, ...typed }) => ({
      ...typed,
      ...boundsOf({ stretch, speed }, { marks, playhead }),
      ...readAs,
      ...workedIn,
      decodeOn,
      speed: Number(speed),
      loops: figure(loops),
      threads: figureOrNull(threads) ?? 0,
      volumeId: volumeId || null,
      prerendered: prerendered === 'use',
    }),
  });
  const [answer, setAnswer] = useState<ForecastAnswer | null>(null);
  const start = async () => {
    await beforeStart();
    const begun = await playing.ask((body) =>
      callApi('POST /api/trials', { body: { kind: 'playback', timelineId, ...body } }),
    );
    if (begun) router.push(`/trials/${begun.id}`);
  };
  const forecast = async () => {
    await beforeStart();
    setAnswer(
      await playing.ask((body) =>
        callApi('POST /api/timelines/{id}/forecast', { ids: { id: timelineId }, body }),
      ),
    );
  };
  return (
    <Form
      of={playing}
      label="Play and measure this timeline"
      className="border bg-surface p-3"
      onSubmit={start}
    >
      <Ways cannotStart={playing.busy || total === 0} onForecast={() => void forecast()} />
      <div className="mt-3 flex flex-wrap items-end gap-3">
        {decodedBy(playing.isWrong('decodeOn'))}
        {devices.length > 0 && <SideBySideLink subject={`timeline:${timelineId}`} />}
      </div>
      <Conditions
        volumes={volumes}
        readFields={readFields(playing.isWrong('underWay'))}
        workedIn={workedChoices()}
      />
      <FormProblems />
      {answer && <Forecast answer={answer} />}
      <p className="mt-2 text-xs text-muted">
        Sound goes along at 1x forwards, and is not heard. {soundText(sound)}
      </p>
    </Form>
  );
}

/** What is mostly asked, and the two ways to an answer: measured, or forecast. */
function Ways({
  cannotStart,
  onForecast,
}: {
  readonly cannotStart: boolean;
  readonly onForecast: () => void;
}) {
  return (
    <div className="flex flex-wrap items-end gap-3">
      <FormChoice name="scale" label="Playback scale" options={scaleOptions} />
      <FormChoice name="read" label="Reads" options={readsOptions} />
      <FormSelect name="stretch" label="Stretch" options={stretches} className="w-44" />
      <FormSelect name="speed" label="Speed" options={speeds} className="w-28" />
      <Button look="main" type="submit" disabled={cannotStart}>
        <Play aria-hidden className="size-4" />
        Play and measure
      </Button>
      <Button disabled={cannotStart} onClick={onForecast}>
        Forecast
      </Button>
    </div>
  );
}

/** What seldom is asked for otherwise. */
function Conditions({
  volumes,
  readFields,
  workedIn,
}: Pick<PlayFormProps, 'volumes'> & { readonly readFields: ReactNode; readonly workedIn: ReactNode }) {
  return (
    <Folded
      summary="Further conditions"
      names={['loops', 'underWay', 'volumeId', 'threads']}
      className="mt-2"
    >
      <FormNumberField name="loops" label="Loops" className="w-24" />
      <FormChoice name="policy" label="Late frames" options={policyOptions} />
      {readFields}
      {workedIn}
      <FormChoice name="sound" label="Sound" options={soundOptions} />
      <FormChoice name="meanwhile" label="Meanwhile" options={meanwhileOptions} />
      <FormChoice name="prerendered" label="Pre-rendered parts" options={prerenderedOptions} />
      <FormSelect
        name="volumeId"
        label="Media from"
        options={[['', 'where the timeline has it'], ...volumes]}
        className="w-56"
      />
      <FormNumberField name="threads" label="Decoder threads" placeholder="one per core" className="w-32" />
    </Folded>
  );
}

const stretches = [
  ['all', 'whole timeline'],
  ['playhead', 'from the playhead'],
  ['marks', 'from in to out'],
] as const;

/** What sound costs, measured when its peaks were made. */
function soundText(sound: readonly (number | null)[]): string {
  const known = sound.filter((ms) => ms !== null);
  if (known.length === 0) return 'None of its clips has sound that was measured.';
  return `Decoding it costs ${milliseconds(least(known))} to ${milliseconds(greatest(known))} per second of a clip, as measured when its peaks were made.`;
}
