'use client';
import { clockTime, size } from '@/core/format';
import { Gauge } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { kinds } from '@/core/kinds/kinds';
import { writableBytes, writeReserve } from '@/core/storage/reserve';
import { Form, FormChoice, FormNumberField, FormProblems, FormSelect } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { figure, figureAs, figureOrNull, FormError } from '../parts/Field';
import { useSend } from '../useSend';
import { blockWords } from './words';
import { openingInput } from '@/core/kinds/opening';
import { streamsInput } from '@/core/kinds/streamsCarried';
import { hasUnderWay, readsThrough, throughputInput, type ThroughputTest } from '@/core/kinds/throughput';
import type { CacheWay } from '@/core/media/coldProof';
import { stairs } from '@/core/storage/underWay';
import type { VolumePage } from '../pages';

const blockSizes = [4_096, 65_536, 2 ** 18, 2 ** 20, 4 * 2 ** 20, 16 * 2 ** 20];
const ownFile = '';
/** So that a step takes its time on a fast volume too. */
const staircaseMegabytes = '3500';

/** A test as it is chosen; figures are text. */
interface Typed extends Record<
  'clipId' | 'blockBytes' | 'bytes' | 'seconds' | 'repeats' | 'underWay' | 'streams',
  string
> {
  readonly test: ThroughputTest;
  readonly cache: CacheWay;
}

/** The volume read, and its first clip played, past the system's cache and through it, in turn. */
function useSideBySide(volume: VolumePage['volume'], [clip]: VolumePage['clips']) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const begin = async () => {
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
  return { busy, error, begin };
}

const testOptions = [
  ['sequential-read', 'Read'],
  ['sequential-write', 'Write'],
  ['frame-paced', 'Frame-paced'],
  ['random-read', 'Random small'],
  ['mixed', 'Read while writing'],
  ['staircase', 'Requests under way'],
] as const satisfies readonly (readonly [ThroughputTest, string])[];

/** What a test reads at once unless told otherwise, bytes. */
function usualBlock(test: ThroughputTest): number {
  if (test === 'random-read') return 4_096;
  return test === 'staircase' ? 2 ** 20 : 4 * 2 ** 20;
}

/** A test as it stands before anything is chosen. */
const firstTyped = ({ volume, clips }: Pick<VolumePage, 'volume' | 'clips'>): Typed => ({
  test: 'sequential-read',
  cache: 'past',
  clipId: volume.facts.writable ? ownFile : (clips[0]?.id ?? ownFile),
  blockBytes: String(usualBlock('sequential-read')),
  bytes: '1000',
  seconds: '15',
  repeats: '3',
  underWay: '',
  streams: '2',
});

/** How a test is begun, and what it will read, write and remove. */
export function MeasureForm({ volume, clips }: Pick<VolumePage, 'volume' | 'clips'>) {
  const router = useRouter();
  const sideBySide = useSideBySide(volume, clips);
  const measuring = useRequestForm<'POST /api/trials', Typed>('POST /api/trials', {
    schema: throughputInput,
    defaults: firstTyped({ volume, clips }),
    bodyOf: ({ test, cache, ...typed }) => ({
      kind: 'throughput',
      volumeId: volume.id,
      test,
      clipId: clipOf(test, typed.clipId),
      blockBytes: Number(typed.blockBytes),
      bytes: figureAs(typed.bytes, (megabytes) => Math.round(megabytes * 1e6)),
      seconds: figure(typed.seconds),
      repeats: figure(typed.repeats),
      streams: figure(typed.streams),
      underWay: figureOrNull(typed.underWay),
      cache: readsThrough(test) ? cache : 'past',
    }),
  });
  const { form } = measuring;
  const { test, cache, clipId, bytes, seconds, repeats } = useTyped(measuring);
  const follow = (next: ThroughputTest) => {
    form.setValue('blockBytes', String(usualBlock(next)));
    if (next === 'staircase') form.setValue('bytes', staircaseMegabytes);
    if (next === 'frame-paced' && clipId === ownFile) form.setValue('clipId', clips[0]?.id ?? ownFile);
  };
  const busy = measuring.busy || sideBySide.busy;
  return (
    <Form
      of={measuring}
      id="measure"
      label="Measure"
      onSubmit={async () => {
        const made = await measuring.send();
        if (made) router.push(`/storage/trials/${made.id}`);
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <FormChoice<ThroughputTest> name="test" label="Test" onChosen={follow} options={testOptions} />
        <Button look="main" type="submit" disabled={busy} className="ml-auto">
          <Gauge aria-hidden className="size-4" />
          Measure
        </Button>
        <Button
          disabled={busy}
          title="Reads the volume, and plays its first clip, past the system’s cache and through it, in turn"
          onClick={() => void sideBySide.begin()}
        >
          Past the cache and through it
        </Button>
      </div>
      <TestFields test={test} clips={clips} />
      <Plan
        volume={volume}
        clips={clips}
        test={test}
        clipId={clipOf(test, clipId)}
        bytes={Number(bytes) * 1e6}
        seconds={Number(seconds) * (test === 'staircase' ? stairs.length : Number(repeats))}
        cache={readsThrough(test) ? cache : 'past'}
      />
      <FormProblems />
      <FormError message={sideBySide.error?.message} />
    </Form>
  );
}

/** The clip that a test reads; null: a file of its own. */
const clipOf = (test: ThroughputTest, chosen: string) =>
  test === 'sequential-write' || chosen === ownFile ? null : chosen;

/** What a test asks for besides: only what it uses. */
function TestFields({ test, clips }: Pick<VolumePage, 'clips'> & { readonly test: ThroughputTest }) {
  const isPaced = test === 'frame-paced';
  return (
    <div className="flex flex-wrap items-start gap-4">
      {test !== 'sequential-write' && (
        <FormSelect
          name="clipId"
          label="Reads"
          className="w-72"
          options={[
            ...(isPaced ? [] : [[ownFile, 'A test file of Navvy’s own'] as const]),
            ...clips.map((clip) => [clip.id, clip.path] as const),
          ]}
        />
      )}
      {isPaced ? (
        <FormNumberField name="streams" label="Streams" className="w-20" />
      ) : (
        <>
          <FormSelect
            name="blockBytes"
            label="Block"
            className="w-28"
            options={blockSizes.map((bytes) => [String(bytes), blockWords(bytes)])}
          />
          <FormNumberField
            name="bytes"
            label={test === 'staircase' ? 'Moves in all' : 'Each repeat moves'}
            unit="MB"
            className="w-36"
          />
        </>
      )}
      <FormNumberField
        name="seconds"
        label={
          isPaced ? 'Each repeat takes' : test === 'staircase' ? 'or each step takes' : 'or takes at most'
        }
        unit="s"
        className="w-32"
      />
      {hasUnderWay(test) && (
        <FormNumberField
          name="underWay"
          label="Requests under way"
          placeholder="as needed"
          className="w-32"
        />
      )}
      {test !== 'staircase' && <FormNumberField name="repeats" label="Repeats" className="w-16" />}
      {readsThrough(test) && (
        <FormChoice<CacheWay>
          name="cache"
          label="System cache"
          options={[
            ['past', 'Past it'],
            ['through', 'Through it'],
          ]}
        />
      )}
    </div>
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
  const finding = useRequestForm('POST /api/trials', {
    schema: streamsInput,
    defaults: { clipId: clips[0]?.id ?? '', seconds: '5', mostStreams: '32' },
    bodyOf: ({ clipId, seconds, mostStreams }) => ({
      kind: 'streams-carried',
      clipId,
      seconds: figure(seconds),
      mostStreams: figure(mostStreams),
    }),
  });
  return (
    <Form
      of={finding}
      label="Streams carried"
      onSubmit={async () => {
        const made = await finding.send();
        if (made) router.push(`/storage/trials/${made.id}`);
      }}
    >
      <div className="flex flex-wrap items-start gap-4">
        <FormSelect
          name="clipId"
          label="Streams of"
          className="w-72"
          options={clips.map((clip) => [clip.id, clip.path])}
        />
        <FormNumberField name="seconds" label="Each number for" unit="s" />
        <FormNumberField name="mostStreams" label="Try at most" unit="streams" className="w-32" />
        <Button type="submit" disabled={finding.busy || clips.length === 0} className="mt-5 ml-auto">
          Find the number of streams
        </Button>
      </div>
      <p className="text-sm text-muted">
        {clips.length === 0
          ? 'No clip of this volume is ready. Scan it first.'
          : 'Doubles the streams until slots are missed, then closes in: at most 12 numbers. Only reads.'}
      </p>
      <FormProblems />
    </Form>
  );
}

/** How its clips are opened, one after the other. */
export function OpenClipsForm({ volume, clips }: Pick<VolumePage, 'volume' | 'clips'>) {
  const router = useRouter();
  const opening = useRequestForm('POST /api/trials', {
    schema: openingInput,
    defaults: { clips: '24' },
    bodyOf: (typed) => ({
      kind: 'opening',
      clipsOfVolume: volume.id,
      clips: figure(typed.clips),
      each: 'picture',
      lanes: 1,
    }),
  });
  return (
    <Form
      of={opening}
      label="Opening clips"
      onSubmit={async () => {
        const made = await opening.send();
        if (made) router.push(`${kinds.opening.page}/${made.id}`);
      }}
    >
      <div className="flex flex-wrap items-start gap-4">
        <FormNumberField name="clips" label="Clips to open" />
        <Button type="submit" disabled={opening.busy || clips.length === 0} className="mt-5 ml-auto">
          Open and measure
        </Button>
      </div>
      <p className="text-sm text-muted">
        {clips.length === 0
          ? 'No clip of this volume is ready. Scan it first.'
          : 'One clip after the other, cold: until its first byte, until its index is read, and until its first picture is decoded. Only reads.'}
      </p>
      <FormProblems />
    </Form>
  );
}
