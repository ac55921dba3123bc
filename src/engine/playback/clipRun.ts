import { decodePacketTable, type PacketTable } from '@/core/media/packetTable';
import type { ScaleCosts } from '@/core/playback/cures';
import { playbackScales } from '@/core/playback/slots';
import { deviceRaster } from '@/core/timeline/deviceRaster';
import { wholeClip } from '@/core/tasks/soundPlan';
import { clipGraph, type Feed } from '@/core/playback/work';
import { median } from '@/core/stats/quantiles';
import { monotonicUs, timed, type CoreTimed } from '../clock';
import type { TellBeforehand } from '../codec/beforehand';
import { RunDevices } from '../codec/runDevices';
import { readerOf } from '../media/aheadReader';
import { openMedia, type MediaBytes } from '../media/mediaBytes';
import { pacedFile } from '../storage/standIn';
import { ClipFinisher } from './clipFinisher';
import { decodersInWords, packetOfRow } from '../codec/decoder';
import { FaultLog } from '../codec/faultLog';
import { clipMedia, type OpenMedia } from '../codec/openMedia';
import { clipFeed, FeedSource, type SlotFrames } from './feedSource';
import type { PreparedRun } from './preparedRun';
import { soundJob } from '../sound/soundJob';
import { playbackRaster, Processor } from '../codec/processor';
import type { ClipInput, PlaybackScale } from './spec';
import { TraceRecorder } from './traceRecorder';
import { readWay } from '@/core/media/coldProof';
import type { PlaybackSettings, WorkedIn } from '@/core/playback/settings';

/** What a device decodes beforehand: every slot's frame, at each playback scale. */
const beforehandOf = (subject: ClipInput, slots: number) =>
  new Map([
    [
      clipMedia,
      {
        ...subject,
        frames: new Set(Array(slots).keys()),
        rasters: playbackScales.flatMap((scale) => rasterAt(subject.setup, scale) ?? []),
      },
    ],
  ]);

/** Opens a clip for a run. @throws EngineError when it cannot be read or decoded */
export async function prepareClip(
  subject: ClipInput,
  settings: PlaybackSettings,
  tell: TellBeforehand,
): Promise<PreparedRun<SlotFrames>> {
  const { rate, setup, format } = subject;
  const packets = decodePacketTable(subject.packets);
  const graph = clipGraph(packets, settings.slotLimit ?? packets.length);
  const devices = RunDevices.open(settings.decoding);
  // Before the file is proved cold: it reads it.
  await devices.decodeBeforehand(() => beforehandOf(subject, graph.slotCount), tell);
  const file = await openMedia({ ...subject, packets }, readWay(settings));
  const commandUs = monotonicUs();
  const recorder = new TraceRecorder(graph.slotCount, graph.bytes);
  const processor = settings.processing
    ? new Processor(setup.width, setup.height, settings.scale, settings)
    : null;
  const pacing = pacedFile(file, subject.standIn);
  const media: OpenMedia = {
    setup,
    format,
    rate,
    packets,
    intra: graph.intra,
    faults: new FaultLog(packets, subject.knownFaults),
    openReader: () =>
      readerOf(packets, settings.underWay ?? 1, async () => {
        const own = await file.another();
        return { ...pacing.paced(own), close: () => own.close() };
      }),
  };
  const source = new FeedSource(
    { slotCount: graph.slotCount, graph, ...clipFeed(graph.feeds[0] as Feed, graph.slotCount) },
    {
      mediaOf: () => media,
      finisher: new ClipFinisher(processor),
      rasterOf: () => rasterAt(setup, settings.scale),
      threads: settings.threads,
      lowDelay: settings.policy === 'hold-time',
      devices,
    },
  );
  await source.openFirst();
  return {
    source,
    graph,
    recorder,
    commandUs,
    cold: file.proof,
    slotUs: (1e6 * rate.den) / rate.num,
    soundJob: soundJob(
      [wholeClip(clipMedia, graph.slotCount, rate)],
      (media) =>
        media === clipMedia && subject.sound
          ? { ...subject, sound: subject.sound, pacing: pacing.sound }
          : null,
      { rate, slotCount: graph.slotCount },
      settings,
    ),
    decoder: () => decodersInWords(source.decoders),
    devices,
    clips: () => [{ index: 0, path: subject.path, pacing: pacing.previews, setup, rate, packets }],
    assertStillThere: () => file.assertStillThere(),
    afterwards: async () => ({
      frameCode: source.frameCode,
      ...(settings.processing
        ? await measureScales(file, subject, packets, devices, settings)
        : { scaleCosts: null }),
    }),
    close: async () => {
      await source.close();
      devices.close();
      await file.close();
    },
  };
}

/** To what a device that scales brings a clip's pictures at a playback scale. */
const rasterAt = (setup: ClipInput['setup'], scale: PlaybackScale) =>
  deviceRaster(null, setup, playbackRaster(setup, scale));

/** The first of them allocates and is not counted. */
const timedFrames = 8;

/**
 * Decodes the first frames and times the process stage at every scale, so that
 * the result can say what a smaller raster would have saved on this rig: time, and processor time.
 */
async function measureScales(
  file: MediaBytes,
  spec: ClipInput,
  packets: PacketTable,
  devices: RunDevices,
  worked: WorkedIn,
): Promise<{ scaleCosts: ScaleCosts | null; coreCosts: ScaleCosts | null }> {
  const times: Record<PlaybackScale, CoreTimed[]> = { full: [], half: [], quarter: [] };
  // Where a device scales, each scale has pictures of its own.
  const together = devices.scale ? playbackScales.map((scale) => [scale]) : [playbackScales];
  for (const scales of together) await timeScales(file, spec, packets, devices, scales, worked, times);
  if (times.full.length === 0) return { scaleCosts: null, coreCosts: null };
  const costs = (of: (took: CoreTimed) => number) => ({
    full: median(times.full.map(of)),
    half: median(times.half.map(of)),
    quarter: median(times.quarter.map(of)),
  });
  return { scaleCosts: costs(({ us }) => us), coreCosts: costs(({ coreUs }) => coreUs) };
}

/** The same for some scales, of the same pictures. @param times added to */
async function timeScales(
  file: MediaBytes,
  spec: ClipInput,
  packets: PacketTable,
  devices: RunDevices,
  scales: readonly PlaybackScale[],
  worked: WorkedIn,
  times: Readonly<Record<PlaybackScale, CoreTimed[]>>,
): Promise<void> {
  const [first = 'full'] = scales;
  // The same stream: pictures of a device may lie in memory otherwise than those of the processor.
  const decoder = await devices.stream(
    clipMedia,
    { item: '', track: 0 },
    clipMedia,
    { ...spec, packets },
    rasterAt(spec.setup, first),
  )({ threads: 1, lowDelay: true });
  const { width, height } = spec.setup;
  const processors = scales.map((scale) => ({
    scale,
    processor: new Processor(width, height, scale, worked),
  }));
  let frames = 0;
  for (let row = 0; row < packets.length && frames < timedFrames; row++) {
    const packet = packetOfRow(
      { setup: spec.setup, packets },
      row,
      await file.read(packets.offset[row] as number, packets.size[row] as number),
    );
    await decoder.send(packet);
    packet.free();
    if (row === packets.length - 1) await decoder.send(null);
    for (
      let frame = await decoder.receive();
      frame && frames < timedFrames;
      frame = await decoder.receive()
    ) {
      for (const { scale, processor } of processors) {
        const { value: picture, ...took } = await timed(() => processor.process(frame));
        if (frames > 0) times[scale].push(took);
        processor.release(picture);
      }
      frame.free();
      frames++;
    }
  }
  decoder.close();
  processors.forEach(({ processor }) => processor.close());
}
