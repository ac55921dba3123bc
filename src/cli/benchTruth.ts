import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, rmdirSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { causeBit, attribute } from '@/core/playback/attribute';
import type { Cure, RigChoices } from '@/core/playback/cures';
import { measuredWork } from '@/core/playback/measuredWork';
import { defaultBufferDepths, type PlaybackScale } from '@/core/playback/slots';
import { intraGraph, uniformWork } from '@/core/playback/work';
import { doubtOf } from '@/core/rig/doubt';
import { pulseConditions } from '@/core/rig/pulse';
import type { StorageModel } from '@/core/storage/model';
import { seededRandom } from '@/core/stats/random';
import { median } from '@/core/stats/quantiles';
import { rational } from '@/core/time/rational';
import { jointFaults, playTimed } from '@/engine/testing/timedPlayer';
import { Pulse } from '@/engine/pulse/pulse';
import { sleepUs } from '@/engine/clock';
import { PulseReference } from '@/server/runner/shared/pulseReference';
import type { BenchRow } from './bench';
import { benchMedia, clipSubject, reel, standInOf, streams, type Subject } from './benchOverload';
import { playWatched, type BenchMedia, type WatchedRun } from './benchTrials';
import { paths } from './home';
import type { InjectedFault } from '@/core/playback/injectedFault';

const faultRuns = 60;
const overloadedRuns = 30;
const leastKept = 27;
const slowedRuns = 20;

/** Faults of one stage and of two together, injected into the player on a clock of its own: runs in which every drop was charged as it was made. */
async function faultRow(): Promise<BenchRow> {
  const random = seededRandom(15);
  const any = <Item>(items: readonly Item[]) => items[Math.floor(random() * items.length)] as Item;
  const work = {
    ...uniformWork(intraGraph(240), rational(25), { read: 3_000, decode: 6_000, process: 5_000 }),
    present: new Float64Array(240),
  };
  let exact = 0;
  for (let run = 0; run < faultRuns; run++) {
    const slots = 2 + Math.floor(random() * 4);
    const [single, [earlier, later], at] = [
      any(['read', 'decode', 'process'] as const),
      any([
        ['read', 'decode'],
        ['read', 'process'],
        ['decode', 'process'],
      ] as const),
      50 + Math.floor(random() * 40),
    ];
    const joint = at + 70;
    const faults: InjectedFault[] = [
      { stage: single, slot: at, slots },
      ...jointFaults(earlier, later, joint, slots),
    ];
    const { trace } = await playTimed(work, 'hold-time', faults);
    const { charges } = attribute(
      trace,
      measuredWork(trace, work.graph, work.slotUs, 'hold-time', defaultBufferDepths),
    );
    const wanted = (slot: number) =>
      slot >= at && slot < at + slots
        ? causeBit[single]
        : slot === joint
          ? causeBit[later]
          : slot > joint && slot < joint + slots
            ? causeBit[earlier] | causeBit[later]
            : 0;
    // What the player gives up while it catches up with both is their fault as well.
    const catchesUp = (slot: number) => slot >= joint + slots && slot < joint + slots + 2;
    if (
      charges.every(
        (charge, slot) =>
          charge === wanted(slot) ||
          (catchesUp(slot) && (charge & ~(causeBit[earlier] | causeBit[later])) === 0),
      )
    )
      exact++;
  }
  return {
    name: 'injected faults, charged exactly',
    value: exact,
    unit: `of ${faultRuns} runs`,
    target: 'all',
    met: exact === faultRuns,
    note: 'one stage, and two together, on a virtual clock',
  };
}

/** A subject with what it is made of, so that a cure can be applied to it. */
interface Curable {
  readonly subject: (scale: PlaybackScale, rate: number | null) => Subject;
  readonly scale: PlaybackScale;
  readonly proxy: { readonly subject: Subject; readonly choices: RigChoices } | null;
}

function atRate(model: StorageModel, bytesPerSecond: number): StorageModel {
  return { ...model, drive: { ...model.drive, readBytesPerSecond: bytesPerSecond } };
}

/** What a cure changes, applied; null where it cannot be here. */
function applied(
  { subject, scale, proxy }: Curable,
  cure: Cure,
): { readonly subject: Subject; readonly scale: PlaybackScale } | null {
  switch (cure.kind) {
    case 'scale':
      return { subject: subject(cure.scale, null), scale: cure.scale };
    case 'volume':
      return { subject: subject(scale, cure.bytesPerSecond), scale };
    case 'proxies':
      return proxy && { subject: proxy.subject, scale };
    default:
      return null;
  }
}

const outOfReach = 0.1;

/** Overloaded runs of the demo's subjects, each played again with its first cure that can be applied: what was promised, and what came. */
async function cureRows(folder: string, pulse: PulseReference): Promise<BenchRow[]> {
  const { media, proxy } = await benchMedia(folder);
  const subjects = await curables(media, proxy);
  const told: {
    readonly name: string;
    readonly off: number;
    readonly sameGrade: boolean;
    readonly words: string;
  }[] = [];
  let [leftOut, tried] = [0, 0];
  for (; told.length < overloadedRuns && tried < 3 * overloadedRuns; tried++) {
    const curable = subjects[tried % subjects.length] as Curable;
    const first = await playWatched(
      curable.subject(curable.scale, null),
      { scale: curable.scale },
      pulse,
      curable.proxy?.choices ?? null,
    );
    const found = first.summary.cures
      .map((cure) => ({ cure, change: applied(curable, cure) }))
      .find(({ change }) => change !== null);
    if (!found?.change) {
      process.stdout.write(
        `  nothing to apply: ${curable.subject(curable.scale, null).name}, ${first.summary.dropped} dropped, ${first.summary.cures.map(({ kind }) => kind).join(', ') || 'no cure'}\n`,
      );
      continue;
    }
    const { cure, change } = found;
    const then = await playWatched(change.subject, { scale: change.scale }, pulse, null);
    const doubt = doubtBetween(first, then);
    if (doubt !== null) {
      leftOut++;
      process.stdout.write(`  left out: ${change.subject.name}, ${doubt}\n`);
      continue;
    }
    const promised = cure.of - cure.removes;
    const { dropped, slots, grade } = then.summary;
    told.push({
      name: change.subject.name,
      off: Math.abs(dropped - promised) / slots,
      sameGrade: grade === cure.grade,
      words: `${change.subject.name}, ${cure.kind}: ${promised} (${cure.grade ?? '?'}) promised, ${dropped} (${grade ?? '?'}) came of ${slots}`,
    });
    process.stdout.write(`  ${told.at(-1)?.words ?? ''}\n`);
  }
  const kept = told.filter(({ off }) => off <= outOfReach).length;
  const graded = told.filter(({ sameGrade }) => sameGrade).length;
  const needed = Math.ceil((leastKept / overloadedRuns) * told.length);
  const note = `${told.length} runs, ${leftOut} in doubt left out`;
  const enough = told.length === overloadedRuns;
  return [
    {
      name: 'cures applied: drops as promised, within a tenth of the slots',
      value: kept,
      unit: `of ${told.length} runs`,
      target: `at least ${leastKept} of ${overloadedRuns}`,
      met: enough && kept >= needed,
      note,
    },
    {
      name: 'cures applied: grade as promised',
      value: graded,
      unit: `of ${told.length} runs`,
      target: `at least ${leastKept} of ${overloadedRuns}`,
      met: enough && graded >= needed,
      note,
    },
  ];
}

/** Why a run and the one with its cure say nothing of each other; null where they do. */
function doubtBetween(first: WatchedRun, then: WatchedRun): string | null {
  const doubt = doubtOf(first.load) ?? doubtOf(then.load);
  if (doubt) return doubt.reason;
  const [before, after] = pulseConditions(
    [first, then].map(({ load }) => (load?.pulse ? [load.pulse.medianUs] : [])),
  );
  return before != null && after != null ? `${before}, then ${after}` : null;
}

async function curables(media: Readonly<Record<string, BenchMedia>>, proxy: BenchMedia): Promise<Curable[]> {
  const part = (name: string) => media[name] as BenchMedia;
  const clip = (
    name: string,
    of: BenchMedia,
    scale: PlaybackScale,
    share: number | null,
    light: Curable['proxy'] = null,
  ): Curable => ({
    scale,
    proxy: light,
    subject: (at, rate) =>
      clipSubject(
        `${name}, ${at}`,
        of,
        at,
        0,
        share === null ? null : rate === null ? standInOf(of, share) : atRate(standInOf(of, share), rate),
      ),
  });
  const lightWall = await proxyOf(part('wall'), proxy);
  return [
    clip('UHD clip', part('uhd'), 'full', null),
    { scale: 'full', proxy: null, subject: (at) => streams('UHD clip', part('uhd'), 2, at) },
    clip('all-intra from 0.5 of its rate', proxy, 'quarter', 0.5),
    { scale: 'full', proxy: null, subject: (at) => reel(media, 1, at) },
    clip('all-intra from 0.7 of its rate', proxy, 'quarter', 0.7),
    clip('all-intra from 0.6 of its rate', proxy, 'quarter', 0.6),
    clip('original from half its rate, with a proxy', part('wall'), 'quarter', 0.5, lightWall),
    clip('original from 0.6 of its rate', part('wall'), 'quarter', 0.6),
    { scale: 'full', proxy: null, subject: (at) => streams('intra clip', part('wall'), 3, at) },
    { scale: 'full', proxy: null, subject: (at) => streams('long-GOP clip', part('kite'), 4, at) },
    { scale: 'full', proxy: null, subject: (at) => reel(media, 4, at) },
    clip('original from 0.7 of its rate', part('wall'), 'quarter', 0.7),
  ];
}

/** A proxy with what it takes against its original, both measured: bytes and decode times of runs that show every frame. */
async function proxyOf(original: BenchMedia, proxy: BenchMedia): Promise<NonNullable<Curable['proxy']>> {
  const everyFrame = (of: BenchMedia) =>
    playWatched(
      clipSubject('', of, 'quarter', 0),
      { scale: 'quarter', policy: 'every-frame', warm: true },
      null,
      null,
    );
  const [whole, light] = [await everyFrame(original), await everyFrame(proxy)];
  const bytes = (run: WatchedRun) =>
    run.trace.bytes.reduce((sum, value) => sum + value, 0) / run.trace.length;
  const decode = (run: WatchedRun) => run.summary.serviceMs.decode;
  const model = standInOf(original, 0.5);
  return {
    subject: clipSubject('its proxy, quarter', proxy, 'quarter', 0, model),
    choices: {
      devices: [],
      proxies: { clipId: 'proxy', read: bytes(light) / bytes(whole), decode: decode(light) / decode(whole) },
    },
  };
}

/** Runs with and without the pulse in turns: what it costs. */
async function costRows(folder: string, pulse: PulseReference): Promise<BenchRow[]> {
  const { media } = await benchMedia(folder);
  const subject = clipSubject('UHD clip, half', media.uhd, 'half', 0);
  const pairs = 8;
  const [beside, without]: [WatchedRun[], WatchedRun[]] = [[], []];
  for (let pair = 0; pair < pairs; pair++) {
    for (const withPulse of pair % 2 === 0 ? [true, false] : [false, true])
      (withPulse ? beside : without).push(
        await playWatched(subject, { scale: 'half', warm: true }, withPulse ? pulse : null, null),
      );
  }
  const stage = (runs: readonly WatchedRun[]) =>
    median(runs.map(({ summary: { serviceMs } }) => serviceMs.decode + serviceMs.process));
  const drops = (runs: readonly WatchedRun[]) => median(runs.map(({ summary }) => summary.dropped));
  const ratio = stage(beside) / stage(without);
  const share = await pulseShare();
  const spread = spreadOf(without.map(({ summary: { serviceMs } }) => serviceMs.decode + serviceMs.process));
  return [
    {
      name: 'stage times with the pulse over without',
      value: ratio,
      unit: 'x',
      target: `within the spread of runs, ${spread.toFixed(3)}`,
      met: ratio <= 1 + spread,
      note: `${pairs} pairs in turns`,
    },
    {
      name: 'drops with the pulse less without, medians',
      value: drops(beside) - drops(without),
      unit: 'slots',
      target: 'at most 1',
      met: drops(beside) - drops(without) <= 1,
      note: `${pairs} pairs in turns`,
    },
    {
      name: 'processor time of the pulse',
      value: share,
      unit: '% of a core',
      target: 'under 0.5',
      met: share < 0.5,
      note: 'its thread, over 10 s beside nothing',
    },
  ];
}

/** Half the range over the median. */
function spreadOf(values: readonly number[]): number {
  return (Math.max(...values) - Math.min(...values)) / 2 / median(values);
}

/** Processor time of the whole process while nothing but the pulse runs in it, per cent of a core. */
async function pulseShare(): Promise<number> {
  const pulse = openPulse();
  await pulse.before();
  const before = process.cpuUsage();
  const begun = performance.now();
  pulse.beat();
  await sleepUs(10e6);
  const { user, system } = process.cpuUsage(before);
  const share = (user + system) / 10 / (performance.now() - begun);
  await pulse.close();
  return share;
}

function openPulse(): Pulse {
  return Pulse.open(pathToFileURL(join(paths.build, 'pulse.mjs'))) as Pulse;
}

/** Holds a process to a share of one core, by a group of its own. */
function holdTo(pid: number, share: number): { end: () => void } {
  const isOlder = existsSync('/sys/fs/cgroup/cpu');
  const group = join(isOlder ? '/sys/fs/cgroup/cpu' : '/sys/fs/cgroup', `navvy-bench-${process.pid}`);
  mkdirSync(group);
  const quotaUs = String(Math.round(share * 100_000));
  writeFileSync(join(group, isOlder ? 'cpu.cfs_quota_us' : 'cpu.max'), quotaUs);
  writeFileSync(join(group, 'cgroup.procs'), String(pid));
  return { end: () => rmdirSync(group) };
}

function neighbour(core: number): ChildProcess {
  return spawn('taskset', ['--cpu-list', String(core), process.execPath, '-e', 'for(;;);'], {
    stdio: 'ignore',
  });
}

/** A clip that the machine plays with headroom, slowed down on purpose: runs that say so. */
async function slowdownRow(folder: string, pulse: PulseReference): Promise<BenchRow> {
  const { proxy } = await benchMedia(folder);
  const subject = clipSubject('light clip, quarter', proxy, 'quarter', 0);
  let found = 0;
  const reasons: string[] = [];
  for (let run = 0; run < slowedRuns; run++) {
    const busy =
      run % 2 === 0 ? Array.from({ length: availableParallelism() }, (_, core) => neighbour(core)) : [];
    let held: { end: () => void } | null = null;
    const { load } = await playWatched(subject, { scale: 'quarter', warm: true }, pulse, null, (pid) => {
      if (run % 2 === 1) held = holdTo(pid, 0.15);
    }).finally(() => {
      for (const child of busy) child.kill('SIGKILL');
    });
    await sleepUs(200_000);
    (held as { end: () => void } | null)?.end();
    const doubt = doubtOf(load);
    if (doubt) found++;
    reasons.push(`${run % 2 === 0 ? 'neighbour' : 'held'}: ${doubt?.reason ?? 'nothing said'}`);
  }
  process.stdout.write(reasons.map((reason) => `  ${reason}\n`).join(''));
  return {
    name: 'slowdowns made on purpose that a run says',
    value: found,
    unit: `of ${slowedRuns} runs`,
    target: 'all',
    met: found === slowedRuns,
    note: 'a busy neighbour on each core, and the process held to 0.15 of one, in turns',
  };
}

/** Whether figures survive an independent check: faults that were injected, cures that are applied, slowdowns that are made. */
export async function truthRows(folder: string): Promise<BenchRow[]> {
  const pulse = openPulse();
  const reference = new PulseReference(pulse);
  const rows = [
    await faultRow(),
    ...(await cureRows(folder, reference)),
    ...(await costRows(folder, reference)),
    await slowdownRow(folder, reference),
  ];
  await pulse.close();
  return rows;
}
