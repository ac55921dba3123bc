'use client';
import { clockTime, megabitsPerSecond } from '@/core/format';
import { Play } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { formatLabel } from '@/core/media/format';
import { rateLabel } from '@/core/time/rational';
import type { PlaybackScale } from '@/engine/playback/spec';
import { isInterlaced } from '@/core/playback/fields';
import type { FieldsWay, Meanwhile, SoundChoice as Sound, WorkingDepth } from '@/core/playback/settings';
import type { Policy } from '@/core/playback/slots';
import type { LibraryClip } from '@/server/library/clipList';
import { apiErrorOf, callApi } from '../api';
import { Button } from '../parts/Button';
import { ClipChoice } from '../parts/ClipChoice';
import {
  Choice,
  ClipFieldsChoice,
  DepthChoice,
  MeanwhileChoice,
  ScaleChoice,
  SoundChoice,
} from '../parts/Choice';
import { SideBySideLink, useDecodedBy, type DeviceChoice } from '../parts/DecodedBy';
import { useReadAs } from '../parts/ReadAs';
import { useCommands } from '../keys/commands';

/** Choose a clip and a playback scale, and start. @param first the clip that is chosen at first */
export function StartForm({ first, devices }: { first: LibraryClip; devices: readonly DeviceChoice[] }) {
  const router = useRouter();
  const [clip, setClip] = useState(first);
  const [scale, setScale] = useState<PlaybackScale>('full');
  const [policy, setPolicy] = useState<Policy>('hold-time');
  const { readAs, fields: readFields } = useReadAs();
  const [depth, setDepth] = useState<WorkingDepth>('kept');
  const [fields, setFields] = useState<FieldsWay | 'each'>('woven');
  const [meanwhile, setMeanwhile] = useState<Meanwhile>('nothing');
  const [sound, setSound] = useState<Sound>('on');
  const [threads, setThreads] = useState('');
  const { decodeOn, field: decodedBy } = useDecodedBy(devices);
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const start = () => {
    setBusy(true);
    setError(null);
    callApi('POST /api/trials', {
      body: {
        kind: 'playback',
        clipId: clip.id,
        scale,
        policy,
        ...readAs,
        depth,
        ...(isInterlaced(clip.scan) ? { fields } : {}),
        meanwhile,
        sound,
        decodeOn,
        threads: threads === '' ? 0 : Number(threads),
      },
    })
      .then(({ id }) => router.push(`/trials/${id}`))
      .catch((failure: unknown) => {
        setBusy(false);
        setError(apiErrorOf(failure).message);
      });
  };
  useCommands(
    useMemo(
      () => [
        ...(['full', 'half', 'quarter'] as const).map((value, index) => ({
          id: `scale-${value}`,
          label: `Playback scale ${value}`,
          group: 'New trial',
          key: String(index + 1),
          run: () => setScale(value),
        })),
      ],
      [],
    ),
  );
  return (
    <form
      aria-label="New playback trial"
      className="border bg-surface p-4"
      onSubmit={(event) => {
        event.preventDefault();
        start();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <ClipChoice value={clip} onChange={setClip} />
        <ScaleChoice value={scale} onChange={setScale} />
        <Button look="main" type="submit" disabled={busy}>
          <Play aria-hidden className="size-4" />
          Play and measure
        </Button>
      </div>
      {clip.format && (
        <p className="mt-2 text-sm text-muted">
          {formatLabel(clip.format)}, {rateLabel(clip.format.rate)} per second,{' '}
          {isInterlaced(clip.scan) && `interlaced, ${clip.scan}, `}peak{' '}
          {megabitsPerSecond(clip.peakBitsPerSecond)}, takes{' '}
          {clockTime(((clip.frames ?? 0) * 1000 * clip.format.rate.den) / clip.format.rate.num)} once started
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-end gap-4">
        {decodedBy()}
        {devices.length > 0 && <SideBySideLink subject={`clip:${clip.id}`} />}
      </div>
      <details className="mt-3">
        <summary className="w-fit text-sm text-muted hover:text-ink">Further conditions</summary>
        <div className="mt-2 flex flex-wrap items-end gap-4">
          <Choice
            label="Late frames"
            value={policy}
            onChange={setPolicy}
            options={[
              ['hold-time', 'Hold time: drop them'],
              ['every-frame', 'Show every frame'],
            ]}
          />
          {readFields()}
          <DepthChoice value={depth} onChange={setDepth} />
          {isInterlaced(clip.scan) && <ClipFieldsChoice value={fields} onChange={setFields} />}
          <SoundChoice value={sound} onChange={setSound} />
          <MeanwhileChoice value={meanwhile} onChange={setMeanwhile} />
          <label>
            <span className="mb-1 block text-xs text-muted">Decoder threads</span>
            <input
              aria-label="Decoder threads"
              inputMode="numeric"
              placeholder="one per core"
              value={threads}
              onChange={(event) => setThreads(event.target.value.replace(/\D/g, ''))}
              className="figure h-9 w-32 border border-edge bg-ground px-2 text-sm placeholder:text-muted"
            />
          </label>
        </div>
      </details>
      {error && (
        <p role="alert" className="mt-3 border-l-4 border-signal pl-3 text-sm">
          {error}
        </p>
      )}
    </form>
  );
}
