import { faultAt, type Fault } from '../fault';
import {
  arrayFigures,
  layoutProblem,
  rebuildExposure,
  streamsRate,
  type ArrayLevel,
  type RebuildExposure,
} from './array';
import { formatDemand, type CameraFormat } from './cameraFormats';
import { ethernetPayloadShare, type Link } from './link';
import { carriedStreams, expectedRate, type LimitingPart, type StorageModel } from './model';
import { drivePreset, linkPreset } from './presets';
import { requiredRate } from './required';

/** A store as the planner's form describes it. Prices in the currency of the person who asks. */
export interface StorePlan {
  readonly name: string;
  readonly level: ArrayLevel;
  readonly drives: number;
  /** Names of presets; the figures below stand in their place where given. */
  readonly drive: string;
  readonly driveTerabytes: number;
  readonly drivePrice: number;
  readonly chassisPrice: number;
  readonly link: string;
  /** Bytes of an Ethernet frame's payload; other links ignore it. */
  readonly mtu: number;
  readonly clients: number;
  /** Links between the store and its switch, shared by all clients. */
  readonly uplinks: number;
  readonly cacheGigabytes: number;
  readonly streamsPerClient: number;
  readonly margin: number;
}

/** What the store would give. Bytes, bytes per second, hours. */
export interface StoreForecast {
  readonly usableBytes: number;
  readonly mayFail: number;
  /** For each client, where all read the planned number of streams. */
  readonly readBytesPerSecond: number;
  /** For each client, where all write one file. */
  readonly writeBytesPerSecond: number;
  /** What holds reading down, per client. */
  readonly limit: LimitingPart | 'server link';
  readonly cachedReadBytesPerSecond: number;
  /** Streams each client carries when all work at once. */
  readonly streamsPerClient: number;
  readonly enough: boolean;
  readonly hours: number;
  readonly rebuild: RebuildExposure | null;
  readonly price: number;
  readonly pricePerUsableTerabyte: number;
}

const cacheBytesPerSecond = 5e9;
const blockBytes = 2 ** 20;

/** The link of a plan with its frame size. */
function planLink({ link, mtu }: Pick<StorePlan, 'link' | 'mtu'>): Link {
  const preset = linkPreset(link);
  return link.startsWith('ethernet') ? { ...preset, payloadShare: ethernetPayloadShare(mtu) } : preset;
}

function planModel(plan: StorePlan): StorageModel {
  return {
    link: planLink(plan),
    drive: { ...drivePreset(plan.drive), bytes: plan.driveTerabytes * 1e12 },
    level: plan.level,
    drives: plan.drives,
    cache: { bytes: plan.cacheGigabytes * 1e9, bytesPerSecond: cacheBytesPerSecond },
    jitterUs: 0,
    othersBytesPerSecond: 0,
    fault: null,
    seed: 1,
  };
}

/** What is wrong with a plan, in words; null when nothing is. */
export function planProblem(plan: StorePlan): Fault | null {
  const wholes: readonly (readonly [string, number])[] = [
    ['Clients', plan.clients],
    ['Uplinks', plan.uplinks],
    ['Streams for each client', plan.streamsPerClient],
  ];
  const wrong = wholes.find(([, value]) => !Number.isInteger(value) || value < 1);
  if (wrong) return faultAt(null, 'plan-whole', { what: wrong[0] });
  if (!(plan.driveTerabytes > 0)) return faultAt(null, 'plan-drive-size');
  if (!(plan.mtu >= 576 && plan.mtu <= 9_600)) return faultAt(null, 'plan-mtu');
  if (!(plan.margin >= 0 && plan.cacheGigabytes >= 0 && plan.drivePrice >= 0 && plan.chassisPrice >= 0))
    return faultAt(null, 'plan-negative');
  return layoutProblem(plan);
}

/**
 * Forecasts a store from its parts, by the model that stand-ins are paced by: each client has one link, all share the
 * drives and the uplinks evenly, and drives get to another place whenever they turn to another stream.
 * @param formats the formats that play, in equal shares
 * @throws RangeError for a plan with a problem
 */
export function forecastStore(plan: StorePlan, formats: readonly CameraFormat[]): StoreForecast {
  const problem = planProblem(plan);
  if (problem) throw new RangeError(problem.message);
  const model = planModel(plan);
  const { usableBytes, mayFail } = arrayFigures(model, model.drive);
  const writing = expectedRate(model, true, blockBytes);
  const line = expectedRate(
    { ...model, drive: { ...model.drive, readBytesPerSecond: Infinity, accessUs: 0 } },
    false,
    blockBytes,
  );
  const frameBytes = formats.reduce((sum, format) => sum + format.bytesPerFrame / formats.length, 0);
  const drivesShare = (write: boolean, streams: number) =>
    streamsRate(model, model.drive, write, streams * plan.clients, frameBytes) / plan.clients;
  const uplinkShare = (line.bytesPerSecond * plan.uplinks) / plan.clients;
  const reading = (streams: number) =>
    Math.min(line.bytesPerSecond, drivesShare(false, streams), uplinkShare);
  const perClient = reading(plan.streamsPerClient);
  const limit =
    perClient === drivesShare(false, plan.streamsPerClient)
      ? ('drives' as const)
      : perClient === uplinkShare && plan.clients > plan.uplinks
        ? ('server link' as const)
        : line.limit;
  const mix = mixedDemand(formats);
  const one = requiredRate(mix, { streams: 1, speed: 1, margin: plan.margin }).required;
  const streams = carriedStreams(reading, one);
  const price = plan.drives * plan.drivePrice + plan.chassisPrice;
  return {
    usableBytes,
    mayFail,
    limit,
    price,
    readBytesPerSecond: perClient,
    writeBytesPerSecond: Math.min(writing.bytesPerSecond, drivesShare(true, 1), uplinkShare),
    cachedReadBytesPerSecond:
      plan.cacheGigabytes > 0
        ? Math.min(line.bytesPerSecond, uplinkShare, cacheBytesPerSecond / plan.clients)
        : 0,
    streamsPerClient: streams,
    enough: streams >= plan.streamsPerClient,
    hours: mix.meanBitsPerSecond > 0 ? (usableBytes * 8) / mix.meanBitsPerSecond / 3_600 : 0,
    rebuild: rebuildExposure(model, model.drive),
    pricePerUsableTerabyte: price / (usableBytes / 1e12),
  };
}

/** Mean over the chosen formats; all zero without any. */
function mixedDemand(formats: readonly CameraFormat[]) {
  const demands = formats.map(formatDemand);
  const average = (pick: (demand: ReturnType<typeof formatDemand>) => number) =>
    demands.length === 0 ? 0 : demands.reduce((sum, demand) => sum + pick(demand), 0) / demands.length;
  return {
    meanBitsPerSecond: average((demand) => demand.meanBitsPerSecond),
    peakBitsPerSecond: average((demand) => demand.peakBitsPerSecond),
  };
}
