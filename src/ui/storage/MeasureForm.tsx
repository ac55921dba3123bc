'use client';
import { clockTime, size } from '@/core/format';
import { Gauge } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { kinds } from '@/core/kinds/kinds';
import { writableBytes, writeReserve } from '@/core/storage/reserve';
import { Button } from '../parts/Button';
import { Choice } from '../parts/Choice';
import { figure, figureAs, figureOrNull, FormError, NumberField } from '../parts/Field';
import { useSend } from '../useSend';
import { blockWords } from './words';
import { hasUnderWay, readsThrough, type ThroughputTest } from '@/core/kinds/throughput';
import type { CacheWay } from '@/core/media/coldProof';
import { stairs } from '@/core/storage/underWay';
import type { VolumePage } from '../pages';
import { SelectField } from '../parts/Select';

const blockSizes = [4_096, 65_536, 2 ** 18, 2 ** 20, 4 * 2 ** 20, 16 * 2 ** 20];
const ownFile = '';
/** So that a step takes its time on a fast volume too. */
const staircaseMegabytes = '3500';

/** How a test is begun, and what it will read, write and remove. */
export function MeasureForm({ volume, clips }: Pick<VolumePage, 'volume' | 'clips'>) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const canWrite = volume.facts.writable;
  const [test, setTest] = useState<ThroughputTest>('sequential-read');
  const [cache, setCache] = useState<CacheWay>('past');
  const [form, setForm] = useState({
    clipId: canWrite ? ownFile : (clips[0]?.id ?? ownFile),
    block: String(4 * 2 ** 20),
    megabytes: '1000',
    seconds: '15',
    repeats: '3',
    underWay: '',
    streams: '2',
  });
  const set = (key: keyof typeof form) => (text: string) =>
    setForm((current) => ({ ...current, [key]: text }));
  const choose = (next: ThroughputTest) => {
    setTest(next);
    setForm((current) => ({
      ...current,
      block: String(next === 'random-read' ? 4_096 : next === 'staircase' ? 2 ** 20 : 4 * 2 ** 20),
      megabytes: next === 'staircase' ? staircaseMegabytes : current.megabytes,
      clipId:
        next === 'frame-paced' && current.clipId === ownFile ? (clips[0]?.id ?? ownFile) : current.clipId,
    }));
  };
  const clipId = test === 'sequential-write' || form.clipId === ownFile ? null : form.clipId;
  const start = async () => {
    const made = await send('POST /api/trials', {
      body: {
        kind: 'throughput',
        volumeId: volume.id,
        test,
        clipId,
        blockBytes: Number(form.block),
        bytes: figureAs(form.megabytes, (megabytes) => Math.round(megabytes * 1e6)),
        seconds: figure(form.seconds),
        repeats: figure(form.repeats),
        streams: figure(form.streams),
        underWay: figureOrNull(form.underWay),
        cache: readsThrough(test) ? cache : 'past',
      },
    });
    if (made) router.push(`/storage/trials/${made.id}`);
  };
  const sideBySide = async () => {
    const [clip] = clips;
    const made = await send('POST /api/plans', {
      body: {
        question: 'past-and-through',
        name: `${volume.name}, past the cache and through it`,
        volumeIds: [volume.id],
        subjects: clip ? [{ kind: 'clip', id: clip.id }] : [],
        tests: clip ? ['throughput', 'playback'] : ['throughput'],
        caches: ['past', 'through'],
      },
    });
    if (made) router.push(`/trials/plans/${made.id}`);
  };
  return (
    <form
      id="measure"
      aria-label="Measure"
      className="flex flex-col gap-3 border bg-surface p-4"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <Choice
          label="Test"
          value={test}
          onChange={choose}
          options={[
            ['sequential-read', 'Read'],
            ['sequential-write', 'Write'],
            ['frame-paced', 'Frame-paced'],
            ['random-read', 'Random small'],
            ['mixed', 'Read while writing'],
            ['staircase', 'Requests under way'],
          ]}
        />
        <Button look="main" type="submit" disabled={busy} className="ml-auto">
          <Gauge aria-hidden className="size-4" />
          Measure
        </Button>
        <Button
          disabled={busy}
          title="Reads the volume, and plays its first clip, past the system’s cache and through it, in turn"
          onClick={() => void sideBySide()}
        >
          Past the cache and through it
        </Button>
      </div>
      <div className="flex flex-wrap items-end gap-4">
        {test !== 'sequential-write' && (
          <SelectField
            label="Reads"
            value={form.clipId}
            onChange={set('clipId')}
            invalid={error?.field === 'clipId'}
            className="w-72"
            options={[
              ...(test === 'frame-paced' ? [] : [[ownFile, 'A test file of Navvy’s own'] as const]),
              ...clips.map((clip) => [clip.id, clip.path] as const),
            ]}
          />
        )}
        {test !== 'frame-paced' && (
          <SelectField
            label="Block"
            value={form.block}
            onChange={set('block')}
            className="w-28"
            options={blockSizes.map((bytes) => [String(bytes), blockWords(bytes)])}
          />
        )}
        {test === 'frame-paced' && (
          <NumberField
            label="Streams"
            value={form.streams}
            onChange={set('streams')}
            invalid={error?.field === 'streams'}
            className="w-20"
          />
        )}
        {test !== 'frame-paced' && (
          <NumberField
            label={test === 'staircase' ? 'Moves in all' : 'Each repeat moves'}
            value={form.megabytes}
            onChange={set('megabytes')}
            invalid={error?.field === 'bytes'}
            unit="MB"
            className="w-36"
          />
        )}
        <NumberField
          label={
            test === 'frame-paced'
              ? 'Each repeat takes'
              : test === 'staircase'
                ? 'or each step takes'
                : 'or takes at most'
          }
          value={form.seconds}
          onChange={set('seconds')}
          invalid={error?.field === 'seconds'}
          unit="s"
          className="w-32"
        />
        {hasUnderWay(test) && (
          <NumberField
            label="Requests under way"
            value={form.underWay}
            onChange={set('underWay')}
            invalid={error?.field === 'underWay'}
            placeholder="as needed"
            className="w-32"
          />
        )}
        {test !== 'staircase' && (
          <NumberField
            label="Repeats"
            value={form.repeats}
            onChange={set('repeats')}
            invalid={error?.field === 'repeats'}
            className="w-16"
          />
        )}
        {readsThrough(test) && (
          <Choice
            label="System cache"
            value={cache}
            onChange={setCache}
            options={[
              ['past', 'Past it'],
              ['through', 'Through it'],
            ]}
          />
        )}
      </div>
      <Plan
        volume={volume}
        clips={clips}
        test={test}
        clipId={clipId}
        bytes={Number(form.megabytes) * 1e6}
        seconds={Number(form.seconds) * (test === 'staircase' ? stairs.length : Number(form.repeats))}
        cache={readsThrough(test) ? cache : 'past'}
      />
      <FormError message={error?.message} />
    </form>
  );
}

interface PlanProps extends Pick<VolumePage, 'volume' | 'clips'> {
  readonly test: ThroughputTest;
  readonly clipId: string | null;
  readonly bytes: number;
  readonly seconds: number;
  readonly cache: CacheWay;
}

/** What the test does to the volume, said before it starts. */
function Plan({ volume, clips, test, clipId, bytes, seconds, cache }: PlanProps) {
  const writes = test === 'sequential-write' || test === 'mixed';
  const ownBytes = (clipId === null && test !== 'sequential-write' ? bytes : 0) + (writes ? bytes : 0);
  const room = writableBytes(volume.facts);
  const readBytes = clipId === null ? bytes : (clips.find((clip) => clip.id === clipId)?.sizeBytes ?? 0);
  const fromCache =
    volume.cacheBytes > 0 && !['sequential-write'].includes(test) && readBytes < volume.cacheBytes * 2;
  return (
    <div className="text-sm text-muted">
      <p>
        {ownBytes > 0
          ? `Writes ${size(ownBytes)} of test files into ${volume.path}, leaves at least ${size(writeReserve(volume.facts.sizeBytes))} of the volume free, and removes them when it ends, however it ends. `
          : 'Only reads. '}
        {cache === 'past'
          ? 'Reads are cold, past the system’s cache, and the result shows the proof. '
          : 'Files are put out of the system’s cache before each repeat, then read through it with its read-ahead, as most players read. '}
        {test === 'staircase' &&
          `Reads on with ${stairs.join(', ')} requests under way in turn, and finds the fewest that give the full rate. `}
        {Number.isFinite(seconds) &&
          `Takes ${clockTime(seconds * 1000)} at most${ownBytes > 0 && test !== 'sequential-write' ? ', and the time to write the file that is read' : ''}.`}
      </p>
      {ownBytes > room && (
        <p className="text-signal-text">
          There is room for {size(room)} of test files. Choose a smaller size or free space.
        </p>
      )}
      {!volume.facts.writable && (
        <p className="text-signal-text">The volume is read-only: read one of its clips.</p>
      )}
      {fromCache && (
        <p className="text-signal-text">
          The store’s server may hold {size(volume.cacheBytes)} in memory. Move at least{' '}
          {size(volume.cacheBytes * 2)}, or what is read again may come from there.
        </p>
      )}
    </div>
  );
}

/** Finds how many streams of a clip the volume carries. */
export function StreamsForm({ clips }: Pick<VolumePage, 'clips'>) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [form, setForm] = useState({ clipId: clips[0]?.id ?? '', seconds: '5', most: '32' });
  const set = (key: keyof typeof form) => (text: string) =>
    setForm((current) => ({ ...current, [key]: text }));
  const start = async () => {
    const made = await send('POST /api/trials', {
      body: {
        kind: 'streams-carried',
        clipId: form.clipId,
        seconds: figure(form.seconds),
        mostStreams: figure(form.most),
      },
    });
    if (made) router.push(`/storage/trials/${made.id}`);
  };
  return (
    <form
      aria-label="Streams carried"
      className="flex flex-col gap-3 border bg-surface p-4"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <SelectField
          label="Streams of"
          value={form.clipId}
          onChange={set('clipId')}
          className="w-72"
          options={clips.map((clip) => [clip.id, clip.path])}
        />
        <NumberField
          label="Each number for"
          value={form.seconds}
          onChange={set('seconds')}
          invalid={error?.field === 'seconds'}
          unit="s"
        />
        <NumberField
          label="Try at most"
          value={form.most}
          onChange={set('most')}
          invalid={error?.field === 'mostStreams'}
          unit="streams"
          className="w-32"
        />
        <Button type="submit" disabled={busy || clips.length === 0} className="ml-auto">
          Find the number of streams
        </Button>
      </div>
      <p className="text-sm text-muted">
        {clips.length === 0
          ? 'No clip of this volume is ready. Scan it first.'
          : 'Doubles the streams until slots are missed, then closes in: at most 12 numbers. Only reads.'}
      </p>
      <FormError message={error?.message} />
    </form>
  );
}

/** How its clips are opened, one after the other. */
export function OpenClipsForm({ volume, clips }: Pick<VolumePage, 'volume' | 'clips'>) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [most, setMost] = useState('24');
  const start = async () => {
    const made = await send('POST /api/trials', {
      body: { kind: 'opening', clipsOfVolume: volume.id, clips: figure(most), each: 'picture', lanes: 1 },
    });
    if (made) router.push(`${kinds.opening.page}/${made.id}`);
  };
  return (
    <form
      aria-label="Opening clips"
      className="flex flex-col gap-3 border bg-surface p-4"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <NumberField
          label="Clips to open"
          value={most}
          onChange={setMost}
          invalid={error?.field === 'clips'}
        />
        <Button type="submit" disabled={busy || clips.length === 0} className="ml-auto">
          Open and measure
        </Button>
      </div>
      <p className="text-sm text-muted">
        {clips.length === 0
          ? 'No clip of this volume is ready. Scan it first.'
          : 'One clip after the other, cold: until its first byte, until its index is read, and until its first picture is decoded. Only reads.'}
      </p>
      <FormError message={error?.message} />
    </form>
  );
}
