import { join } from 'node:path';
import type { Frame } from 'node-av/lib';
import type { DecodedStream } from '@/core/decode/decoding';
import type { RunFaults } from '@/core/media/faults';
import { decodePacketTable as decode, encodePacketTable } from '@/core/media/packetTable';
import { summarise } from '@/core/playback/summary';
import { decodeTrace, joinTraces, type Trace } from '@/core/playback/trace';
import { planCourse, type CoursePlan } from '@/core/timeline/course';
import { courseLength, type Course } from '@/core/timeline/flatten';
import { sideBySide } from '@/core/timeline/loads';
import { lengthOf, type MediaRef, type Timeline } from '@/core/timeline/model';
import { chargeParts } from '@/core/timeline/parts';
import { hear, WatchedProcess, type ProcessEnd } from '@/server/runner/shared/watchedProcess';
import { FrameAccess } from '../codec/frameAccess';
import { packedSound } from '../media/soundIndex';
import { probeClip } from '../media/probe';
import type { ProbedClip } from '../media/streamFacts';
import type { FromTrial } from '../playback/spec';
import type { TimelineMediaSpec, TimelineSpec } from '../timeline/spec';
import { plainSettings, workFolder } from './testTrial';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { RunConditions, RunFindings } from '@/core/playback/conditions';

/** A generated clip as a timeline uses it. */
export interface TestMedia {
  readonly ref: MediaRef;
  readonly spec: TimelineMediaSpec;
  readonly probed: ProbedClip;
}

export async function testMedia(
  path: string,
  standIn: TimelineMediaSpec['standIn'] = null,
): Promise<TestMedia> {
  const probed = await probeClip(path);
  const { width, height, rate } = probed.format;
  return {
    probed,
    ref: {
      clipId: path,
      name: path.split('/').at(-1) as string,
      reel: null,
      startTimecode: null,
      contentHash: null,
      rate,
      frames: probed.packets.length,
      width,
      height,
    },
    spec: {
      path,
      volumeId: 'v',
      volumeName: 'Edit room',
      standIn,
      setup: probed.setup,
      format: probed.format,
      rate,
      packets: encodePacketTable(probed.packets),
      sound: packedSound(probed.sound),
    },
  };
}

/** What is found on one decoded frame of a file. */
export async function onFrame<Found>(
  path: string,
  number: number,
  look: (frame: Frame) => Found,
): Promise<Found> {
  const { setup, packets, format } = await probeClip(path);
  const reader = await FrameAccess.open({ path, setup, packets, rate: format.rate });
  const frame = await reader.frame(number);
  await reader.close();
  if (!frame) throw new Error(`${path} has no frame ${number}`);
  const found = look(frame);
  frame.free();
  return found;
}

export function specOf(
  timeline: Timeline,
  media: Readonly<Record<string, TestMedia>>,
  looks: TimelineSpec['looks'] = {},
): TimelineSpec {
  return {
    timeline: {
      ...timeline,
      media: Object.fromEntries(Object.entries(media).map(([id, { ref }]) => [id, ref])),
    },
    media: Object.fromEntries(Object.entries(media).map(([id, { spec }]) => [id, spec])),
    looks,
  };
}

export interface TimelineRun {
  readonly end: ProcessEnd<'trial'>;
  readonly trace: Trace;
  readonly plan: CoursePlan;
  readonly course: Course;
  readonly findings: RunFindings | null;
  readonly faults: RunFaults | null;
  /** Empty where it was software alone. */
  readonly streams: readonly DecodedStream[];
  readonly conditions: RunConditions | null;
  readonly pictures: readonly { frame: number; jpeg: Uint8Array }[];
}

/** So many streams of one clip side by side, over its whole length. */
export function streamsOf(media: TestMedia, count = 1): TimelineSpec {
  return specOf(sideBySide({ id: 'm', ref: media.ref }, count), { m: media });
}

/** Plays a timeline in a trial process. */
export async function runTimeline(
  spec: TimelineSpec,
  change: Partial<Course> = {},
  settings: Partial<PlaybackSettings> = {},
  viewers = 0,
): Promise<TimelineRun> {
  const total = lengthOf(spec.timeline);
  const speed = change.speed ?? 1;
  const from = change.from ?? (speed < 0 ? total - 1 : 0);
  const course: Course = { from, speed, slots: courseLength(total, from, speed), loop: null, ...change };
  const parts: Trace[] = [];
  const pictures: TimelineRun['pictures'][number][] = [];
  let findings: RunFindings | null = null;
  let faults: RunFaults | null = null;
  let streams: readonly DecodedStream[] = [];
  let conditions: RunConditions | null = null;
  const host = new WatchedProcess(
    'trial',
    join(await workFolder(), 'build', 'trial.mjs'),
    {
      trialId: 'test',
      subject: { kind: 'timeline', ...spec, course },
      settings: { ...plainSettings, ...settings },
    },
    {
      watchdogMs: 20_000,
      onMessage: hear<FromTrial>({
        prepared: (told) => {
          conditions = told.conditions;
        },
        faults: (told) => {
          faults = told.faults;
        },
        streams: (told) => {
          streams = told.streams;
        },
        findings: (told) => {
          findings = told.findings;
        },
        picture: ({ frame, jpeg }) => pictures.push({ frame, jpeg }),
        batch: (batch) => parts.push(decodeTrace(batch.data)),
      }),
    },
  );
  host.send({ type: 'viewers', count: viewers });
  const end = await host.ended;
  const tables = new Map(Object.entries(spec.media).map(([id, { packets }]) => [id, packets]));
  return {
    end,
    trace: joinTraces(parts),
    course,
    findings,
    faults,
    streams,
    conditions,
    pictures,
    plan: planCourse(spec.timeline, course, new Map([...tables].map(([id, packed]) => [id, decode(packed)]))),
  };
}

/** Summary of a run with its charges to parts. */
export function judge(
  { timeline }: TimelineSpec,
  { trace, plan, findings }: TimelineRun,
  settings: Partial<PlaybackSettings> = {},
) {
  const { policy, buffers, scale } = { ...plainSettings, ...settings };
  return summarise({
    trace,
    graph: plan.graph,
    rate: timeline.rate,
    policy,
    buffers,
    scale,
    scaleCosts: findings?.scaleCosts ?? null,
    chargeParts: (measured, states) =>
      findings?.parts ? chargeParts(timeline, plan, measured, states, findings.parts) : [],
  });
}
