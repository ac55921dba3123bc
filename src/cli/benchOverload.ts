import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { bytesPerSlot, dataRate } from '@/core/media/dataRate';
import { decodePacketTable } from '@/core/media/packetTable';
import { longestGapSlots } from '@/core/playback/grade';
import { slotState } from '@/core/playback/slots';
import { clipGraph, type FrameGraph } from '@/core/playback/work';
import { allowedSlots } from '@/core/playback/yield';
import { modelOf } from '@/core/storage/presets';
import type { StorageModel } from '@/core/storage/model';
import { toNumber, type Rational } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { courseLength, type Course } from '@/core/timeline/flatten';
import { sideBySide } from '@/core/timeline/loads';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { demoClips, type DemoClip } from '@/demo/clips';
import { encodeDemoClip } from '@/demo/encodeClip';
import { demoLook, reelOne } from '@/demo/timelines';
import type { PlaybackScale, TrialSpec } from '@/engine/playback/spec';
import type { TimelineSpec } from '@/engine/timeline/spec';
import type { BenchRow } from './bench';
import { mediaAt, playOnce, type BenchMedia } from './benchTrials';
import type { InjectedFault } from '@/core/playback/injectedFault';

/** Something that overloads this machine, or is fed too slowly. */
export interface Subject {
  readonly name: string;
  readonly spec: TrialSpec['subject'];
  readonly rate: Rational;
  readonly graph: FrameGraph;
  readonly scale: PlaybackScale;
  /** Least share of what it allows that must be shown. */
  readonly leastYield: number;
  /** Longest gap that is let pass, in slots. */
  readonly longestGap: number;
}

const kite = demoClips.find(({ file }) => file.includes('KITE')) as DemoClip;
/** A clip without frames that nothing refers to: there is no way to catch up but by key frames. */
const plainGroups: DemoClip = { ...kite, file: 'bench/plain_groups.mp4', bFrames: 0 };
/** One that is long enough at eight times the speed. */
const forShuttle: DemoClip = { ...kite, file: 'bench/shuttle.mp4', frames: 960 };

function play(subject: Subject, policy: 'hold-time' | 'every-frame', faults: readonly InjectedFault[] = []) {
  return playOnce(subject, { scale: subject.scale, policy, warm: true, faults }, 0, 60_000);
}

export function reel(
  media: Readonly<Record<string, BenchMedia>>,
  speed: number,
  scale: PlaybackScale,
): Subject {
  const ref = (part: string) => (media[part] as BenchMedia).ref;
  const timeline = reelOne({
    wall: ref('wall'),
    uhd: ref('uhd'),
    marsh: ref('marsh'),
    kite: ref('kite'),
    still: ref('still'),
  });
  return timelineSubject(
    `demo reel${speed === 1 ? '' : ` at ${speed}x`}, ${scale}`,
    timeline,
    media,
    { [demoLook.id]: demoLook.cube },
    speed,
    scale,
    0.9,
  );
}

function timelineSubject(
  name: string,
  timeline: Timeline,
  media: Readonly<Record<string, BenchMedia>>,
  looks: TimelineSpec['looks'],
  speed: number,
  scale: PlaybackScale,
  leastYield: number,
): Subject {
  const specs = Object.fromEntries(Object.entries(media).map(([id, { spec }]) => [id, spec]));
  const course: Course = { from: 0, slots: courseLength(lengthOf(timeline), 0, speed), speed };
  const { graph } = planCourse(
    timeline,
    course,
    new Map(Object.entries(specs).map(([id, { packets }]) => [id, decodePacketTable(packets)])),
  );
  return {
    name,
    spec: { kind: 'timeline', timeline, media: specs, looks, course },
    rate: timeline.rate,
    graph,
    scale,
    leastYield,
    longestGap: Math.max(graph.keyInterval, Math.round(toNumber(timeline.rate))),
  };
}

export function clipSubject(
  name: string,
  { spec }: BenchMedia,
  scale: PlaybackScale,
  leastYield: number,
  standIn: StorageModel | null = null,
): Subject {
  const { rate } = spec;
  const graph = clipGraph(decodePacketTable(spec.packets));
  return {
    name,
    rate,
    graph,
    scale,
    leastYield,
    longestGap: graph.intra ? 3 : Math.max(graph.keyInterval, Math.round(toNumber(rate))),
    spec: { ...spec, kind: 'clip', standIn },
  };
}

/** Streams of a clip side by side, all from its first frame. */
export function streams(name: string, clip: BenchMedia, count: number, scale: PlaybackScale): Subject {
  return timelineSubject(
    `${count} streams of ${name}, ${scale}`,
    sideBySide({ id: 'm', ref: clip.ref }, count),
    { m: clip },
    {},
    1,
    scale,
    0,
  );
}

/** Four streams of a clip whose key frames fall at different slots. */
function staggered(clip: BenchMedia, scale: PlaybackScale): Subject {
  const streams = 4;
  const shift = 7;
  const base = sideBySide({ id: 'm', ref: clip.ref }, streams);
  const length = lengthOf(base) - shift * streams;
  const tracks = base.tracks.map((track, at) => ({
    ...track,
    items: track.items.map((item) => ({
      ...item,
      length,
      source: item.source.kind === 'clip' ? { ...item.source, in: at * shift } : item.source,
    })),
  }));
  return timelineSubject(
    `four streams, key frames apart, ${scale}`,
    { ...base, tracks },
    { m: clip },
    {},
    1,
    scale,
    0.9,
  );
}

/** A stand-in that gives a share of what a clip needs, and nothing besides. */
export function standInOf({ spec }: BenchMedia, share: number): StorageModel {
  const needs = dataRate(bytesPerSlot(decodePacketTable(spec.packets)), spec.rate).meanBitsPerSecond / 8;
  const model = modelOf('usb-10', 'ssd-burst');
  return { ...model, drive: { ...model.drive, readBytesPerSecond: needs * share, accessUs: 0, burst: null } };
}

/** The demo's media, with two clips of the bench's own. */
export async function benchMedia(folder: string) {
  for (const clip of [plainGroups, forShuttle]) await encodeDemoClip(clip, folder);
  const at = (part: string) =>
    mediaAt(
      join(
        folder,
        [...demoClips, plainGroups, forShuttle].find(({ file }) => file.includes(part))?.file ?? '',
      ),
    );
  const media = {
    wall: await at('TW_WALL_0107.'),
    uhd: await at('UHD'),
    marsh: await at('MARSH'),
    kite: await at('KITE'),
    still: await at('CHART'),
  };
  return { media, proxy: await at('proxy'), shuttle: await at('shuttle'), plain: await at('plain_groups') };
}

async function subjects(folder: string): Promise<Subject[]> {
  const { media, proxy, shuttle, plain } = await benchMedia(folder);
  return [
    ...(['quarter', 'half', 'full'] as const).map((scale) => reel(media, 1, scale)),
    clipSubject('UHD clip, full', media.uhd, 'full', 0.9),
    staggered(media.kite, 'full'),
    ...[4, 8].map((speed) =>
      timelineSubject(
        `long-GOP clip at ${speed}x, full`,
        sideBySide({ id: 'm', ref: shuttle.ref }, 1),
        { m: shuttle },
        {},
        speed,
        'full',
        0.9,
      ),
    ),
    ...[4, 8].map((speed) => reel(media, speed, 'full')),
    ...[0.5, 0.8, 0.95].map((share) => ({
      ...clipSubject(`all-intra from ${share} of its rate`, proxy, 'quarter', 0.9, standInOf(proxy, share)),
      longestGap: share < 0.8 ? 24 : 3,
    })),
    timelineSubject(
      'long-GOP without disposable frames, full',
      sideBySide({ id: 'm', ref: plain.ref }, 3),
      { m: plain },
      {},
      1,
      'full',
      0.6,
    ),
  ];
}

/** Plays a subject both ways; what hold time showed of what the machine can. */
async function yieldRow(subject: Subject, loaded: boolean): Promise<BenchRow> {
  const every = await play(subject, 'every-frame');
  const held = await play(subject, 'hold-time');
  const allowed = allowedSlots(every.trace.presentedAt, subject.rate);
  const value = held.summary.shown / allowed;
  const gap = longestGapSlots(held.trace.state);
  const { agreement = 1, policyAgreement = 1 } = held.summary.attribution ?? {};
  const met =
    value >= subject.leastYield && gap <= subject.longestGap && agreement === 1 && policyAgreement >= 0.95;
  return {
    name: `yield, ${subject.name}${loaded ? ', beside half a core' : ''}`,
    value,
    unit: 'x',
    target: `at least ${subject.leastYield}`,
    met,
    note: `${held.summary.shown} of ${held.summary.slots} shown, every frame ${every.summary.achievedRate.toFixed(1)}/s, longest gap ${gap} (at most ${subject.longestGap}), policy agreement ${policyAgreement.toFixed(3)}, agreement ${agreement.toFixed(3)}`,
  };
}

/** Takes half a core from the others until it is ended. */
function halfACore(): { end: () => void } {
  const child = spawn(
    process.execPath,
    [
      '-e',
      'const wait = new Int32Array(new SharedArrayBuffer(4)); for (;;) { const until = performance.now() + 5; while (performance.now() < until); Atomics.wait(wait, 0, 0, 5); }',
    ],
    { stdio: 'ignore' },
  );
  return { end: () => child.kill() };
}

/** A stage of a light clip held for a second: slots until nothing drops any more. */
async function recoveryRow(subject: Subject, stage: InjectedFault['stage']): Promise<BenchRow> {
  const second = Math.round(toNumber(subject.rate));
  const fault = { stage, slot: 2 * second, slots: second };
  const { trace, summary } = await play(subject, 'hold-time', [fault]);
  const last = trace.state.lastIndexOf(slotState.dropped);
  const value = Math.max(0, last + 1 - (fault.slot + fault.slots));
  const most = subject.graph.keyInterval + second;
  return {
    name: `slots until clean after a second of ${stage}`,
    value,
    unit: 'slots',
    target: `at most ${most}`,
    met: value <= most && summary.dropped > 0,
    note: `${summary.dropped} of ${summary.slots} dropped, policy agreement ${summary.attribution?.policyAgreement.toFixed(3)}`,
  };
}

/** Overload: what a player that recovers must show of what the machine can do. */
export async function overloadRows(folder: string): Promise<BenchRow[]> {
  const all = await subjects(folder);
  const rows: BenchRow[] = [];
  for (const subject of all) rows.push(await yieldRow(subject, false));
  const load = halfACore();
  try {
    for (const subject of all) rows.push(await yieldRow(subject, true));
  } finally {
    load.end();
  }
  const light = clipSubject('light', await mediaAt(join(folder, kite.file)), 'quarter', 1);
  for (const stage of ['read', 'decode', 'process'] as const) rows.push(await recoveryRow(light, stage));
  return rows;
}
