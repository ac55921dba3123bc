'use client';
import { milliseconds } from '@/core/format';
import { Play } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Meanwhile, SoundChoice as Sound } from '@/core/playback/settings';
import type { Policy, PlaybackScale } from '@/core/playback/slots';
import { Button } from '../parts/Button';
import { useWorkedIn } from '../parts/WorkedIn';
import {
  Choice,
  MeanwhileChoice,
  PrerenderedChoice,
  ReadsChoice,
  ScaleChoice,
  SoundChoice,
} from '../parts/Choice';
import { SideBySideLink, useDecodedBy, type DeviceChoice } from '../parts/DecodedBy';
import { useReadAs } from '../parts/ReadAs';
import { FormError, NumberField } from '../parts/Field';
import type { ForecastAnswer } from '@/server/timelines/timelineForecast';
import { useSend } from '../useSend';
import { Forecast } from './Forecast';
import { greatest, least } from '@/core/stats/extremes';
import { SelectField } from '../parts/Select';

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
  const { busy, error, send } = useSend();
  const [scale, setScale] = useState<PlaybackScale>('full');
  const [read, setRead] = useState<'originals' | 'proxies'>('originals');
  const [stretch, setStretch] = useState<'all' | 'playhead' | 'marks'>('all');
  const [speed, setSpeed] = useState('1');
  const [loops, setLoops] = useState('1');
  const [policy, setPolicy] = useState<Policy>('hold-time');
  const { readAs, fields: readFields } = useReadAs();
  const [volumeId, setVolumeId] = useState('');
  const [prerendered, setPrerendered] = useState(false);
  const { workedIn, choices: workedChoices } = useWorkedIn();
  const [meanwhile, setMeanwhile] = useState<Meanwhile>('nothing');
  const [sounding, setSounding] = useState<Sound>('on');
  const [threads, setThreads] = useState('');
  const { decodeOn, field: decodedBy } = useDecodedBy(devices);
  const [answer, setAnswer] = useState<ForecastAnswer | null>(null);
  const request = () => {
    const backwards = Number(speed) < 0;
    const bounds =
      stretch === 'marks'
        ? { from: marks.in ?? 0, to: marks.out === null ? null : marks.out + 1 }
        : stretch === 'playhead'
          ? backwards
            ? { from: 0, to: playhead + 1 }
            : { from: playhead, to: null }
          : { from: 0, to: null };
    return {
      scale,
      read,
      speed: Number(speed),
      loops: Number(loops),
      policy,
      ...readAs,
      ...workedIn,
      meanwhile,
      sound: sounding,
      decodeOn,
      threads: threads === '' ? 0 : Number(threads),
      volumeId: volumeId || null,
      prerendered,
      ...bounds,
    };
  };
  const start = async () => {
    await beforeStart();
    const begun = await send('POST /api/trials', {
      body: {
        kind: 'playback',
        timelineId,
        ...request(),
      },
    });
    if (begun) router.push(`/trials/${begun.id}`);
  };
  const forecast = async () => {
    await beforeStart();
    setAnswer(await send('POST /api/timelines/{id}/forecast', { ids: { id: timelineId }, body: request() }));
  };
  return (
    <form
      aria-label="Play and measure this timeline"
      className="border bg-surface p-3"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <ScaleChoice value={scale} onChange={setScale} />
        <ReadsChoice value={read} onChange={setRead} />
        <SelectField
          label="Stretch"
          value={stretch}
          onChange={(value) => setStretch(value)}
          options={[
            ['all', 'whole timeline'],
            ['playhead', 'from the playhead'],
            ['marks', 'from in to out'],
          ]}
          className="w-44"
        />
        <SelectField label="Speed" value={speed} onChange={setSpeed} options={speeds} className="w-28" />
        <Button look="main" type="submit" disabled={busy || total === 0}>
          <Play aria-hidden className="size-4" />
          Play and measure
        </Button>
        <Button disabled={busy || total === 0} onClick={() => void forecast()}>
          Forecast
        </Button>
      </div>
      <div className="mt-3 flex flex-wrap items-end gap-3">
        {decodedBy(error?.field === 'decodeOn')}
        {devices.length > 0 && <SideBySideLink subject={`timeline:${timelineId}`} />}
      </div>
      <details className="mt-2">
        <summary className="w-fit text-sm text-muted hover:text-ink">Further conditions</summary>
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <NumberField
            label="Loops"
            value={loops}
            onChange={setLoops}
            invalid={error?.field === 'loops'}
            className="w-24"
          />
          <Choice
            label="Late frames"
            value={policy}
            onChange={setPolicy}
            options={[
              ['hold-time', 'Hold time: drop them'],
              ['every-frame', 'Show every frame'],
            ]}
          />
          {readFields(error?.field === 'underWay')}
          {workedChoices()}
          <SoundChoice value={sounding} onChange={setSounding} />
          <MeanwhileChoice value={meanwhile} onChange={setMeanwhile} />
          <PrerenderedChoice value={prerendered} onChange={setPrerendered} />
          <SelectField
            label="Media from"
            value={volumeId}
            onChange={setVolumeId}
            options={[['', 'where the timeline has it'], ...volumes]}
            className="w-56"
          />
          <NumberField
            label="Decoder threads"
            value={threads}
            onChange={setThreads}
            placeholder="one per core"
            className="w-32"
          />
        </div>
      </details>
      <FormError message={error?.message} />
      {answer && <Forecast answer={answer} />}
      <p className="mt-2 text-xs text-muted">
        Sound goes along at 1x forwards, and is not heard. {soundText(sound)}
      </p>
    </form>
  );
}

/** What sound costs, measured when its peaks were made. */
function soundText(sound: readonly (number | null)[]): string {
  const known = sound.filter((ms) => ms !== null);
  if (known.length === 0) return 'None of its clips has sound that was measured.';
  return `Decoding it costs ${milliseconds(least(known))} to ${milliseconds(greatest(known))} per second of a clip, as measured when its peaks were made.`;
}
