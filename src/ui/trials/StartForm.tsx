'use client';
import { Play } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { clockTime, megabitsPerSecond } from '@/core/format';
import { playbackInput } from '@/core/kinds/playback';
import { formatLabel } from '@/core/media/format';
import { isInterlaced } from '@/core/playback/fields';
import type { FieldsWay, Meanwhile, SoundChoice as Sound, WorkingDepth } from '@/core/playback/settings';
import type { PlaybackScale, Policy } from '@/core/playback/slots';
import { rateLabel } from '@/core/time/rational';
import type { LibraryClip } from '@/server/library/clipList';
import { Folded, Form, FormChoice, FormNumberField, FormProblems } from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { useCommands } from '../keys/commands';
import { Button } from '../parts/Button';
import {
  clipFieldsOptions,
  depthOptions,
  fieldsLabel,
  meanwhileOptions,
  policyOptions,
  scaleOptions,
  soundOptions,
} from '../parts/Choice';
import { ClipChoice } from '../parts/ClipChoice';
import { SideBySideLink, useDecodedBy, type DeviceChoice } from '../parts/DecodedBy';
import { figureOrNull } from '../parts/Field';
import { useReadAs } from '../parts/ReadAs';

/** A run as it is chosen; figures are text. */
interface Typed {
  readonly scale: PlaybackScale;
  readonly policy: Policy;
  readonly depth: WorkingDepth;
  readonly fields: FieldsWay | 'each';
  readonly sound: Sound;
  readonly meanwhile: Meanwhile;
  readonly threads: string;
}

const defaults: Typed = {
  scale: 'full',
  policy: 'hold-time',
  depth: 'kept',
  fields: 'woven',
  meanwhile: 'nothing',
  sound: 'on',
  threads: '',
};

/** Choose a clip and a playback scale, and start. @param first the clip that is chosen at first */
export function StartForm({ first, devices }: { first: LibraryClip; devices: readonly DeviceChoice[] }) {
  const router = useRouter();
  const [clip, setClip] = useState(first);
  const { readAs, fields: readFields } = useReadAs();
  const { decodeOn, field: decodedBy } = useDecodedBy(devices);
  const starting = useRequestForm<'POST /api/trials', Typed>('POST /api/trials', {
    schema: playbackInput,
    defaults,
    bodyOf: ({ fields, threads, ...typed }) => ({
      kind: 'playback',
      clipId: clip.id,
      ...typed,
      ...readAs,
      ...(isInterlaced(clip.scan) ? { fields } : {}),
      decodeOn,
      threads: figureOrNull(threads) ?? 0,
    }),
  });
  const { form } = starting;
  useCommands(
    useMemo(
      () =>
        (['full', 'half', 'quarter'] as const).map((scale, index) => ({
          id: `scale-${scale}`,
          label: `Playback scale ${scale}`,
          group: 'New trial',
          key: String(index + 1),
          run: () => form.setValue('scale', scale),
        })),
      [form],
    ),
  );
  return (
    <Form
      of={starting}
      label="New playback trial"
      className="border bg-surface p-4"
      onSubmit={async () => {
        const begun = await starting.send();
        if (begun) router.push(`/trials/${begun.id}`);
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <ClipChoice value={clip} onChange={setClip} />
        <FormChoice name="scale" label="Playback scale" options={scaleOptions} />
        <Button look="main" type="submit" disabled={starting.busy}>
          <Play aria-hidden className="size-4" />
          Play and measure
        </Button>
      </div>
      <AboutClip clip={clip} />
      <div className="mt-3 flex flex-wrap items-end gap-4">
        {decodedBy(starting.isWrong('decodeOn'))}
        {devices.length > 0 && <SideBySideLink subject={`clip:${clip.id}`} />}
      </div>
      <Folded summary="Further conditions" names={['underWay', 'threads']} className="mt-3">
        <FormChoice name="policy" label="Late frames" options={policyOptions} />
        {readFields(starting.isWrong('underWay'))}
        <FormChoice name="depth" label="Processed in" options={depthOptions} />
        {isInterlaced(clip.scan) && (
          <FormChoice name="fields" label={fieldsLabel} options={clipFieldsOptions} />
        )}
        <FormChoice name="sound" label="Sound" options={soundOptions} />
        <FormChoice name="meanwhile" label="Meanwhile" options={meanwhileOptions} />
        <FormNumberField name="threads" label="Decoder threads" placeholder="one per core" className="w-32" />
      </Folded>
      <FormProblems />
    </Form>
  );
}

/** What a clip is, and how long its run takes. */
function AboutClip({ clip: { format, scan, frames, peakBitsPerSecond } }: { clip: LibraryClip }) {
  return (
    format && (
      <p className="mt-2 text-sm text-muted">
        {formatLabel(format)}, {rateLabel(format.rate)} per second,{' '}
        {isInterlaced(scan) && `interlaced, ${scan}, `}peak {megabitsPerSecond(peakBitsPerSecond)}, takes{' '}
        {clockTime(((frames ?? 0) * 1000 * format.rate.den) / format.rate.num)} once started
      </p>
    )
  );
}
