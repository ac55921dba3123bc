'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { PlaybackScale } from '@/engine/playback/spec';
import { Button } from '../parts/Button';
import { ScaleChoice } from '../parts/Choice';
import { useDecodedBy } from '../parts/DecodedBy';
import { FormError, figure, NumberField } from '../parts/Field';
import { useSend } from '../useSend';
import type { ClipPage } from '../pages';
import { SelectField } from '../parts/Select';

const presetRates = [
  ['', 'the clip’s own rate'],
  ['24000/1001', '23.976'],
  ['24/1', '24'],
  ['25/1', '25'],
  ['30000/1001', '29.97'],
  ['50/1', '50'],
  ['60000/1001', '59.94'],
  ['60/1', '60'],
] as const;

/** What can be measured of a clip's decoding, and what was. */
export function ClipDecode({ page: { clip, devices } }: { page: ClipPage }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [scale, setScale] = useState<PlaybackScale>('full');
  const [rate, setRate] = useState('');
  const [most, setMost] = useState('16');
  const { decodeOn, field: decodedBy } = useDecodedBy(devices, false);
  const rateTrial = async () => {
    const made = await send('POST /api/trials', {
      body: {
        kind: 'decode-rate',
        clipIds: [clip.id],
      },
    });
    if (made) router.push(`/media/decode/${made.ids[0] ?? ''}`);
  };
  const support = async () => {
    if (await send('POST /api/trials', { body: { kind: 'decode-support', clipIds: [clip.id] } }))
      router.push('/media/support');
  };
  const streams = async () => {
    const [num = 0, den = 0] = rate.split('/').map(Number);
    const made = await send('POST /api/trials', {
      body: {
        kind: 'decode-streams',
        clipId: clip.id,
        scale,
        rate: rate === '' ? null : { num, den },
        mostStreams: figure(most),
        decodeOn,
      },
    });
    if (made) router.push(`/media/decode/${made.id}`);
  };
  return (
    <section aria-label="Decoding">
      <h2 className="mb-2">Decoding on this rig</h2>
      <div className="flex flex-wrap items-end gap-3 border bg-surface p-4">
        <Button
          look="main"
          disabled={busy}
          onClick={() => {
            void rateTrial();
          }}
        >
          Measure decode rate
        </Button>
        <Button
          disabled={busy}
          onClick={() => {
            void support();
          }}
        >
          Try every decode device
        </Button>
        <span className="mx-2 h-9 border-l" />
        <ScaleChoice value={scale} onChange={setScale} />
        <SelectField label="Timeline rate" value={rate} onChange={setRate} options={presetRates} />
        <NumberField
          label="Streams at most"
          value={most}
          onChange={setMost}
          invalid={error?.field === 'mostStreams'}
        />
        {decodedBy(error?.field === 'decodeOn')}
        <Button
          disabled={busy}
          onClick={() => {
            void streams();
          }}
        >
          Ramp streams
        </Button>
      </div>
      <FormError message={error?.message} />
    </section>
  );
}
