'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { kinds } from '@/core/kinds/kinds';
import type { OpeningEach } from '@/core/kinds/opening';
import { Button } from '../parts/Button';
import { CacheChoice, Choice, ReadsChoice } from '../parts/Choice';
import { figure, FormError, NumberField } from '../parts/Field';
import { useSend } from '../useSend';
import { SubjectChoice, type Subject } from '../parts/SubjectChoice';

/** Choose what is to be opened, and how. */
export function OpeningForm({ others, first }: { others: readonly Subject[]; first: Subject | null }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [what, setWhat] = useState(first);
  const [clips, setClips] = useState('12');
  const [lanes, setLanes] = useState('2');
  const [each, setEach] = useState<OpeningEach>('whole');
  const [threads, setThreads] = useState('');
  const [read, setRead] = useState<'originals' | 'proxies'>('originals');
  const [cache, setCache] = useState<'cold' | 'warm'>('cold');
  const { kind, id = '' } = what ?? {};
  const isVolume = kind === 'volume';
  const at = (field: string) => error?.field === field;
  const start = async () => {
    const made = await send('POST /api/trials', {
      body: {
        kind: 'opening',
        ...(isVolume
          ? { clipsOfVolume: id, clips: figure(clips) }
          : kind === 'timeline'
            ? { timelineId: id }
            : { clipId: id }),
        lanes: figure(lanes),
        each,
        threads: threads.trim() === '' ? 0 : figure(threads),
        read,
        warm: cache === 'warm',
      },
    });
    if (made) router.push(`${kinds.opening.page}/${made.id}`);
  };
  return (
    <form
      aria-label="Opening"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <SubjectChoice
          label="Timeline, volume or clip"
          value={what}
          onChange={setWhat}
          others={others}
          invalid={at('timelineId') || at('clipId') || at('clipsOfVolume')}
        />
        {isVolume && (
          <NumberField label="Its first clips" value={clips} onChange={setClips} invalid={at('clips')} />
        )}
        <NumberField label="Clips at a time" value={lanes} onChange={setLanes} invalid={at('lanes')} />
        <Choice
          label="Of each clip"
          value={each}
          onChange={(next) => {
            setEach(next);
            // What one clip takes is told by one at a time.
            setLanes(next === 'picture' ? '1' : '2');
          }}
          options={[
            ['whole', 'All'],
            ['picture', 'First picture'],
          ]}
        />
        <Button look="main" type="submit" disabled={busy || what === null}>
          Open and measure
        </Button>
      </div>
      <p className="text-sm text-muted">
        {each === 'picture'
          ? 'Of every clip, one after the other: until its first byte, until its index is read, and until its first picture is decoded. The figures are shown with the volume and with each clip.'
          : 'The headers of what its first picture shows and that picture, then header, thumbnails and sound peaks of every clip, as the media list draws them. Nothing that was drawn before is used, and nothing of it is kept.'}
      </p>
      <details>
        <summary className="w-fit text-sm text-muted hover:text-ink">Further conditions</summary>
        <div className="mt-2 flex flex-wrap items-end gap-4">
          <ReadsChoice value={read} onChange={setRead} />
          <CacheChoice value={cache} onChange={setCache} />
          <NumberField
            label="Threads of a decoder"
            value={threads}
            placeholder="one per core"
            onChange={setThreads}
            invalid={at('threads')}
          />
        </div>
      </details>
      <FormError message={error?.message} />
    </form>
  );
}
