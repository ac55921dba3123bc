import { mkdtemp, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { bundleProcesses, projectRoot } from '@/cli/bundle';
import type { DecodedStream } from '@/core/decode/decoding';
import type { ClipFaults, RunFaults } from '@/core/media/faults';
import { encodePacketTable } from '@/core/media/packetTable';
import { defaultBufferDepths } from '@/core/playback/slots';
import { summarise } from '@/core/playback/summary';
import { decodeTrace, joinTraces, type Trace } from '@/core/playback/trace';
import { clipGraph } from '@/core/playback/work';
import type { StorageModel } from '@/core/storage/model';
import type { Rational } from '@/core/time/rational';
import type { DemoClip } from '@/demo/clips';
import { encodeDemoClip } from '@/demo/encodeClip';
import { packedSound } from '../media/soundIndex';
import { probeClip } from '../media/probe';
import type { ProbedClip } from '../media/streamFacts';
import type { ProcessName, ProcessTypes } from '../processes';
import type { FromTrial, LiveCounters } from '../playback/spec';
import { hear, WatchedProcess, type ProcessEnd } from '@/server/runner/shared/watchedProcess';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { RunConditions, RunFindings } from '@/core/playback/conditions';

/** Runs real trial processes on small generated clips. */
let folder: Promise<string> | null = null;

/** A folder of this test run with the trial process's bundle in it: below the project, where its packages are found. */
export function workFolder(): Promise<string> {
  folder ??= mkdtemp(join(projectRoot, '.navvy-engine-')).then(async (path) => {
    await bundleProcesses(join(path, 'build'));
    return path;
  });
  return folder;
}

afterAll(async () => {
  if (folder) await rm(await folder, { recursive: true, force: true });
});

/** Starts a measuring process under watch. @param heard what is called for each type of message */
export async function startProcess<Name extends ProcessName>(
  name: Name,
  spec: ProcessTypes[Name]['spec'],
  heard: Parameters<typeof hear<ProcessTypes[Name]['says']>>[0] = {},
  watchdogMs = 20_000,
): Promise<WatchedProcess<Name>> {
  return new WatchedProcess(name, join(await workFolder(), 'build', `${name}.mjs`), spec, {
    watchdogMs,
    onMessage: hear<ProcessTypes[Name]['says']>(heard),
  });
}

export async function smallClip(clip: DemoClip): Promise<string> {
  const base = await workFolder();
  await encodeDemoClip(clip, base);
  return join(base, clip.file);
}

export const plainSettings: PlaybackSettings = {
  scale: 'full',
  policy: 'hold-time',
  threads: 0,
  warm: false,
  processing: true,
  buffers: defaultBufferDepths,
  slotLimit: null,
  faults: [],
};

export interface TestRun {
  readonly end: ProcessEnd<'trial'>;
  readonly trace: Trace;
  readonly conditions: RunConditions | null;
  readonly findings: RunFindings | null;
  readonly faults: RunFaults | null;
  /** Empty where it was software alone. */
  readonly streams: readonly DecodedStream[];
  readonly probed: ProbedClip;
  readonly counters: readonly LiveCounters[];
  readonly pictures: readonly { frame: number; jpeg: Uint8Array }[];
}

export interface RunOptions {
  readonly settings?: Partial<PlaybackSettings>;
  readonly watchdogMs?: number;
  readonly viewers?: number;
  /** Called with the host as soon as slots have been saved. */
  readonly during?: (host: WatchedProcess<'trial'>) => void | Promise<void>;
  /** Reads this file instead of the probed one. */
  readonly readFrom?: string;
  /** Reads through this model. */
  readonly standIn?: StorageModel | null;
  /** What earlier runs met of the clip. */
  readonly knownFaults?: ClipFaults;
  /** Plays at this rate instead of the clip's own. */
  readonly rate?: Rational;
}

export async function runTrial(
  path: string,
  {
    settings,
    watchdogMs = 20_000,
    viewers = 0,
    during,
    readFrom,
    rate,
    knownFaults,
    standIn = null,
  }: RunOptions = {},
): Promise<TestRun> {
  const base = await workFolder();
  const found = await probeClip(path);
  const probed = rate ? { ...found, format: { ...found.format, rate } } : found;
  const parts: Trace[] = [];
  const counters: LiveCounters[] = [];
  const pictures: { frame: number; jpeg: Uint8Array }[] = [];
  let conditions: RunConditions | null = null;
  let findings: RunFindings | null = null;
  let faults: RunFaults | null = null;
  let streams: readonly DecodedStream[] = [];
  let begun = false;
  const host = new WatchedProcess(
    'trial',
    join(base, 'build', 'trial.mjs'),
    {
      trialId: 'test',
      subject: {
        kind: 'clip',
        path: readFrom ?? path,
        standIn,
        setup: probed.setup,
        format: probed.format,
        rate: probed.format.rate,
        packets: encodePacketTable(probed.packets),
        sound: packedSound(probed.sound),
        knownFaults,
      },
      settings: { ...plainSettings, ...settings },
    },
    {
      watchdogMs,
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
        counters: (told) => counters.push(told.counters),
        picture: ({ frame, jpeg }) => pictures.push({ frame, jpeg }),
        batch: (batch) => {
          expect(batch.from).toBe(parts.reduce((sum, part) => sum + part.length, 0));
          parts.push(decodeTrace(batch.data));
          if (!begun) void during?.(host);
          begun = true;
        },
      }),
    },
  );
  host.send({ type: 'viewers', count: viewers });
  const end = await host.ended;
  return { end, trace: joinTraces(parts), conditions, findings, faults, streams, probed, counters, pictures };
}

/** Summary and charges of a run. */
export function analyse(
  { trace, probed, findings, faults }: Pick<TestRun, 'trace' | 'probed' | 'findings' | 'faults'>,
  settings: Partial<PlaybackSettings> = {},
) {
  const { policy, buffers, scale } = { ...plainSettings, ...settings };
  return summarise({
    trace,
    graph: clipGraph(probed.packets, trace.length),
    rate: probed.format.rate,
    policy,
    buffers,
    scale,
    scaleCosts: findings?.scaleCosts ?? null,
    doubtful: faults?.doubtful ?? [],
  });
}
