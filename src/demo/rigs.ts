import { gzipSync } from 'node:zlib';
import { bundleHashes } from '@/core/formats/bundleHashes';
import { bundleFormat, bundleVersion, type BundleTrial, type ResultBundle } from '@/core/formats/bundleTypes';
import { summariseRate, type DecodePass } from '@/core/decode/result';
import type { Format } from '@/core/media/format';
import type { FrameStructure } from '@/core/media/frameStructure';
import type { PacketTable } from '@/core/media/packetTable';
import { modelTrace } from '@/core/playback/modelTrace';
import { simulate } from '@/core/playback/simulate';
import { defaultBufferDepths, playbackScales, type PlaybackScale } from '@/core/playback/slots';
import { summarise } from '@/core/playback/summary';
import { encodeTrace } from '@/core/playback/trace';
import { seededRandom } from '@/core/stats/random';
import { expectedRate } from '@/core/storage/model';
import { toNumber } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { isDeepFormat } from '@/core/playback/depth';
import type { EffectCosts } from '@/core/timeline/effectCosts';
import { forecastWork } from '@/core/timeline/forecast';
import { sideBySide } from '@/core/timeline/loads';
import { lengthOf, type MediaRef } from '@/core/timeline/model';
import { sha256 } from '@/engine/sha256';
import { demoVolumes, type DemoVolume } from './volumes';
import type { RigConditions } from '@/core/kinds/shared/conditions';
import type { MediaUse } from '@/core/timeline/subject';
import type { RigIdentity } from '@/core/rig/identity';

/** A clip of the demo as the made-up rigs play it. */
export interface RigClip {
  readonly ref: MediaRef;
  readonly path: string;
  readonly contentHash: string;
  readonly format: Format;
  readonly structure: FrameStructure;
  readonly meanBitsPerSecond: number;
  readonly packets: PacketTable;
}

/** A rig of the scenario that does not exist: its results are computed, and say so. */
interface MadeUpRig {
  readonly id: string;
  readonly name: string;
  readonly identity: RigIdentity;
  /** Work of its processor per unit of time; 1 is one slow core. */
  readonly speed: number;
  readonly seed: number;
}

const identity = (host: string, processor: string, cores: number, gibibytes: number): RigIdentity => ({
  host,
  processor,
  physicalCores: cores,
  logicalCores: cores,
  memoryBytes: gibibytes * 2 ** 30,
  graphics: [],
  system: 'a model',
  kernel: 'none',
  machine: 'simulated',
  disks: [],
  networks: [],
});

const madeUpRigs: readonly MadeUpRig[] = [
  {
    id: 'rig-simulated-quoin',
    name: 'Quoin',
    identity: identity('quoin', 'Workstation processor (simulated)', 16, 64),
    speed: 9,
    seed: 41,
  },
  {
    id: 'rig-simulated-bollard',
    name: 'Bollard',
    identity: identity('bollard', 'Portable processor (simulated)', 6, 16),
    speed: 2.1,
    seed: 43,
  },
];
export const madeUpRigIds = madeUpRigs.map(({ id }) => id);

/** Streams at once that the scenario's brief asks for. */
export const scenarioStreams = 4;

/** ms of one slow core for a megapixel and for a megabit of coded picture, by codec; where the models of these rigs come from. Our own estimates. */
const decodeMs: Readonly<Record<string, readonly [number, number]>> = {
  ProRes: [7, 1.1],
  'H.264': [5, 4],
  HEVC: [9, 6],
  'Motion JPEG': [6, 1.5],
};

function framesPerSecond({ speed }: MadeUpRig, { format, meanBitsPerSecond }: RigClip): number {
  const [perMegapixel, perMegabit] = decodeMs[format.codec] ?? [9, 5];
  const ms =
    (perMegapixel * format.width * format.height) / 1e6 +
    (perMegabit * meanBitsPerSecond) / 1e6 / toNumber(format.rate);
  return (1000 * speed) / ms;
}

function costsOf({ speed }: MadeUpRig): Required<EffectCosts> {
  const perScale: Record<PlaybackScale, number> = { full: 1, half: 0.34, quarter: 0.15 };
  const costs = (share: number) =>
    playbackScales.map((scale) => ({
      scale,
      baseUs: (16_000 * share * perScale[scale]) / speed,
      layerUs: (24_000 * share * perScale[scale]) / speed,
      effects: { transform: (-9_000 * share * perScale[scale]) / speed },
    }));
  return { width: 1920, height: 1080, scales: costs(0.6), deep: costs(1) };
}

/** Volumes that the made-up rigs can reach. */
const reached = demoVolumes.filter(({ standIn, kind }) => standIn !== null && kind !== 'card');
const begun = Date.parse('2026-11-02T09:00:00Z');

/**
 * Results of the made-up rigs as bundles: each clip of the demo, as many streams
 * of it at once as the brief asks for, from each volume that holds it, at full and
 * half scale, played by the simulator that also judges measured runs.
 * @param timelineId address of the timeline that stands for several streams of a content
 */
export function madeUpBundles(
  clips: readonly RigClip[],
  timelineId: (contentHash: string, streams: number) => string,
): ResultBundle[] {
  return madeUpRigs.map((rig) => {
    let minute = 0;
    const when = () => new Date(begun + minute++ * 60_000).toISOString();
    const playback = reached.flatMap((volume) =>
      clips
        .filter(({ path }) => volume.holds.some((start) => path.startsWith(start)))
        .flatMap((clip) =>
          (['full', 'half'] as const).map((scale) =>
            playbackTrial(rig, volume, clip, scale, timelineId(clip.contentHash, scenarioStreams), when()),
          ),
        ),
    );
    const bundle = {
      format: bundleFormat,
      version: bundleVersion,
      exportedAt: new Date(begun).toISOString(),
      softwareVersion: 'a model',
      rig: { id: rig.id, name: rig.name, identity: { ...rig.identity }, simulated: true },
      volumes: reached.map(({ id, name, kind, standIn, notes, price }) => ({
        id,
        name,
        kind,
        standIn,
        notes,
        price,
        link: standIn?.link.label ?? '',
        cacheBytes: standIn?.cache.bytes ?? 0,
      })),
      trials: [...playback, ...clips.map((clip) => decodeTrial(rig, clip, when()))],
    } as const;
    return { ...bundle, hashes: bundleHashes(bundle, sha256) };
  });
}

function idOf(rig: MadeUpRig, ...parts: readonly string[]): string {
  return [rig.id.replace('rig-', ''), ...parts].join('-');
}

const conditions = (rig: MadeUpRig, at: string): RigConditions => ({
  rig: rig.identity,
  rigState: {
    at,
    power: 'mains',
    processorGovernor: null,
    loadAverage: 0,
    freeMemoryBytes: rig.identity.memoryBytes / 2,
    busiest: [],
  },
  softwareVersion: 'a model',
});

/** A clip's streams side by side as a rig plays them from a volume, computed by the playback model. */
function modelRun(rig: MadeUpRig, volume: DemoVolume, clip: RigClip, scale: PlaybackScale) {
  const timeline = sideBySide({ id: 'm1', ref: clip.ref }, scenarioStreams);
  const course = { from: 0, slots: lengthOf(timeline), speed: 1 };
  const plan = planCourse(timeline, course, new Map([['m1', clip.packets]]));
  const bytesPerSecond = volume.standIn
    ? expectedRate(volume.standIn, false, 2 ** 20).bytesPerSecond
    : Infinity;
  const smooth = forecastWork(
    timeline,
    plan,
    {
      bytesPerSecond: () => bytesPerSecond,
      framesPerSecond: () => framesPerSecond(rig, clip),
      costs: costsOf(rig),
      isDeep: () => isDeepFormat(clip.format),
    },
    scale,
    1e6 / toNumber(timeline.rate),
    defaultBufferDepths,
    'hold-time',
  );
  const random = seededRandom(rig.seed + clip.packets.length + volume.id.length);
  const jittered = (values: Float64Array) => values.map((value) => value * (0.94 + 0.12 * random()));
  const work = {
    ...smooth,
    read: jittered(smooth.read),
    decode: jittered(smooth.decode),
    process: jittered(smooth.process),
  };
  const played = simulate(work);
  const trace = modelTrace(work, played, plan.graph.bytes);
  const scaleCosts = Object.fromEntries(
    (isDeepFormat(clip.format) ? costsOf(rig).deep : costsOf(rig).scales).map((one) => [
      one.scale,
      one.baseUs + one.layerUs * (scenarioStreams - 1),
    ]),
  ) as Record<PlaybackScale, number>;
  const { summary, charges } = summarise({
    trace,
    graph: plan.graph,
    rate: timeline.rate,
    policy: 'hold-time',
    buffers: defaultBufferDepths,
    scale,
    scaleCosts,
  });
  return { timeline, course, startLatencyMs: -played.startUs / 1000, trace, summary, charges, scaleCosts };
}

/** The file of a clip on a volume, as a trial's record names it. */
const mediaUse = (volume: DemoVolume, clip: RigClip): MediaUse => ({
  name: clip.ref.name,
  clipId: '',
  path: clip.path,
  volumeId: volume.id,
  volumeName: volume.name,
  standIn: volume.standIn,
  contentHash: clip.contentHash,
  format: clip.format,
  role: 'original',
});

function playbackTrial(
  rig: MadeUpRig,
  volume: DemoVolume,
  clip: RigClip,
  scale: PlaybackScale,
  timelineId: string,
  at: string,
): BundleTrial<'playback'> {
  const { timeline, course, startLatencyMs, trace, summary, charges, scaleCosts } = modelRun(
    rig,
    volume,
    clip,
    scale,
  );
  const { name, rate, width, height, startTimecode } = timeline;
  const { slots } = course;
  return {
    id: idOf(rig, volume.id.replace('volume-demo-', ''), clip.contentHash.slice(0, 8), scale),
    kind: 'playback',
    status: 'done',
    outcome: null,
    detail: null,
    createdAt: at,
    startedAt: at,
    endedAt: at,
    subject: {
      timeline: {
        id: timelineId,
        version: 1,
        name,
        rate,
        width,
        height,
        slots,
        course,
        read: 'originals',
        media: { m1: mediaUse(volume, clip) },
        missing: [],
      },
      startTimecode,
    },
    settings: {
      scale,
      policy: 'hold-time',
      threads: 0,
      warm: false,
      depth: 'kept',
      processing: true,
      buffers: defaultBufferDepths,
      slotLimit: null,
      faults: [],
    },
    progress: { slotCount: slots },
    load: null,
    summary,
    conditions: {
      ...conditions(rig, at),
      run: {
        cold: { method: 'direct', residentBefore: 0, residentAtStart: 0 },
        startLatencyMs,
        decoder: 'a model',
        decoderThreads: rig.identity.logicalCores,
        threadKind: 'none',
        codecLibrary: 'a model',
        afterwards: { scaleCosts, frameCode: false },
      },
    },
    recorded: {
      charges: [{ charges: Buffer.from(charges).toString('base64') }],
      traces: [{ fromSlot: 0, slots, data: gzipSync(encodeTrace(trace)).toString('base64') }],
    },
  };
}

function decodeTrial(rig: MadeUpRig, clip: RigClip, at: string): BundleTrial<'decode-rate'> {
  const frames = clip.packets.length;
  const random = seededRandom(rig.seed + frames);
  const passes = (['one', 'all'] as const).flatMap((cores) =>
    Array.from({ length: 3 }, (): DecodePass => {
      const rate =
        (cores === 'all' ? framesPerSecond(rig, clip) : (framesPerSecond(rig, clip) / rig.speed) * 1.6) *
        (0.98 + 0.04 * random());
      return {
        cores,
        side: 'software',
        frames,
        firstFrameUs: 2e6 / rate,
        spanUs: ((frames - 1) / rate) * 1e6,
        cpuUs: (frames / rate) * 1e6,
        onDevice: 0,
        decoder: 'a model',
        threads: cores === 'all' ? rig.identity.logicalCores : 1,
        threadKind: 'none',
      };
    }),
  );
  const { path, contentHash, format, structure, meanBitsPerSecond } = clip;
  return {
    id: idOf(rig, 'decode', contentHash.slice(0, 8)),
    kind: 'decode-rate',
    status: 'done',
    outcome: null,
    detail: null,
    createdAt: at,
    startedAt: at,
    endedAt: at,
    subject: {
      clipPath: path,
      volumeName: 'memory',
      contentHash,
      format,
      structure,
      frames,
      meanBitsPerSecond,
      device: null,
    },
    settings: { kind: 'decode-rate', passSeconds: 1, passes: 3 },
    conditions: conditions(rig, at),
    load: null,
    recorded: {},
    summary: summariseRate({ passes, costs: null, seeks: [], memoryBytes: null, format, meanBitsPerSecond }),
  };
}
