import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseCube, plainCube, tablesOf } from '@/core/formats/cube';
import type { Decoding } from '@/core/decode/decoding';
import { decodePacketTable, isKey, type PacketTable } from '@/core/media/packetTable';
import { playbackScales } from '@/core/playback/slots';
import { deviceRaster, type Raster } from '@/core/timeline/deviceRaster';
import type { SlotContent } from '@/core/timeline/flatten';
import type { TellBeforehand, WantedFrames } from '../codec/beforehand';
import { RunDevices } from '../codec/runDevices';
import { readerOf } from '../media/aheadReader';
import { openMedia, type MediaBytes } from '../media/mediaBytes';
import type { StorageModel } from '@/core/storage/model';
import type { ThreadPacing } from '../storage/sharedPacer';
import { gatedReader, StandInGate } from '../storage/standIn';
import type { FieldsWay, WorkedIn, WorkingDepth } from '@/core/playback/settings';
import type { GraphFiles, LookFile } from './pictureGraph';
import type { TimelineSpec } from './spec';
import { FaultLog } from '../codec/faultLog';
import { playbackRaster } from '../codec/processor';
import type { OpenMedia } from '../codec/openMedia';
import { leastCold, readWay, type ColdProof, type ColdWay, type ReadBy } from '@/core/media/coldProof';
import { greatest } from '@/core/stats/extremes';

/** Streams that a stand-in tells apart, and places in its address space: each reader counts as footage of its own, so that what a server's cache has of one does not help another. */
const mostStreams = 64;
const mostPlaces = 256;

/** What decodes a timeline, and what made-up devices may be asked for. */
export interface DecodedBy {
  readonly decoding: Decoding | undefined;
  /** Contents of the slots that may be shown; asked for only where they are needed. */
  readonly shown: () => Iterable<SlotContent>;
  readonly tell: TellBeforehand;
}

/** Frames of each medium that some slots show, or decode alongside, and the rasters that its items are shown at. */
function wantedFrames(
  { timeline, media }: TimelineSpec,
  shown: Iterable<SlotContent>,
): Map<string, WantedFrames> {
  const shownAt = playbackScales.map((scale) => playbackRaster(timeline, scale));
  const rasters = new Map(Object.keys(media).map((id) => [id, new Map<string, Raster>()]));
  const seen = new Set<string>();
  const frames = new Map(Object.keys(media).map((id) => [id, new Set<number>()]));
  for (const { layers, alongside } of shown)
    for (const { media: id, frame, item } of [...layers, ...alongside]) {
      const spec = id === null ? undefined : media[id];
      if (id === null || !spec) continue;
      frames.get(id)?.add(frame);
      if (seen.has(`${item.id} ${id}`)) continue;
      seen.add(`${item.id} ${id}`);
      for (const at of shownAt) {
        const raster = deviceRaster(item, spec.setup, at);
        if (raster) rasters.get(id)?.set(`${raster.width}x${raster.height}`, raster);
      }
    }
  return new Map(
    Object.entries(media).map(([id, spec]) => [
      id,
      { ...spec, frames: frames.get(id) ?? new Set(), rasters: [...(rasters.get(id)?.values() ?? [])] },
    ]),
  );
}

/** A timeline's media and looks, opened for reading. */
export class OpenTimeline {
  private constructor(
    readonly media: ReadonlyMap<string, OpenMedia>,
    readonly tables: ReadonlyMap<string, PacketTable>,
    readonly files: GraphFiles,
    readonly depth: WorkingDepth,
    readonly fields: FieldsWay,
    /** the least cold of the files */ readonly cold: ColdProof,
    private readonly opened: ReadonlyMap<string, MediaBytes>,
    private readonly pacings: ReadonlyMap<string, () => ThreadPacing>,
    private readonly folder: string | null,
    /** What decodes it. */ readonly devices: RunDevices,
  ) {}

  /** @throws EngineError when a file is missing or unreadable, or a device does not open */
  static async open(
    spec: TimelineSpec,
    readBy: ReadBy & WorkedIn,
    decoded?: DecodedBy,
  ): Promise<OpenTimeline> {
    const devices = RunDevices.open(decoded?.decoding);
    try {
      // Before files are proved cold: it reads them.
      if (decoded) await devices.decodeBeforehand(() => wantedFrames(spec, decoded.shown()), decoded.tell);
      return await OpenTimeline.openWith(spec, readBy, devices);
    } catch (error) {
      devices.close();
      throw error;
    }
  }

  private static async openWith(
    { timeline, media: specs, looks }: TimelineSpec,
    readBy: ReadBy & WorkedIn,
    devices: RunDevices,
  ): Promise<OpenTimeline> {
    const gates = new Map<string, { gate: StandInGate; readers: number; spacing: number }>();
    const media = new Map<string, OpenMedia>();
    const tables = new Map<string, PacketTable>();
    const opened = new Map<string, MediaBytes>();
    const pacings = new Map<string, () => ThreadPacing>();
    for (const [id, spec] of Object.entries(specs)) {
      const packets = decodePacketTable(spec.packets);
      const file = await openMedia({ ...spec, packets }, readWay(readBy));
      opened.set(id, file);
      tables.set(id, packets);
      const place = () => {
        const known = gates.get(spec.volumeId) ?? openGate(spec, specs, opened);
        gates.set(spec.volumeId, known);
        const stream = known.readers % mostStreams;
        return { gate: known.gate, stream, base: (known.readers++ % mostPlaces) * known.spacing };
      };
      if (spec.standIn)
        pacings.set(id, () => {
          const { gate, stream, base } = place();
          return gate.forThread(stream, base);
        });
      const openReader = () => {
        const placed = spec.standIn ? place() : null;
        return readerOf(packets, readBy.underWay ?? 1, async () => {
          const own = await file.another();
          const close = () => own.close();
          if (!placed) return { read: (offset: number, bytes: number) => own.read(offset, bytes), close };
          return { ...gatedReader(placed.gate, placed.stream, placed.base, own), close };
        });
      };
      media.set(id, {
        setup: spec.setup,
        format: spec.format,
        rate: spec.rate,
        packets,
        intra: packets.length > 0 && packets.flags.every((_, row) => isKey(packets, row)),
        faults: new FaultLog(packets, spec.knownFaults),
        name: timeline.media[id]?.name,
        openReader,
      });
    }
    // Most timelines have no look, and then nothing is left behind by a process that is killed.
    const folder = Object.keys(looks).length === 0 ? null : await mkdtemp(join(tmpdir(), 'navvy-looks-'));
    return new OpenTimeline(
      media,
      tables,
      await writeLooks(looks, folder ?? tmpdir()),
      readBy.depth ?? '8-bit',
      readBy.fields ?? 'woven',
      leastCold([...opened.values()].map(({ proof }) => proof)),
      opened,
      pacings,
      folder,
      devices,
    );
  }

  /** What one more reader of a medium, on a thread of its own, is held to; null where its volume is no stand-in. */
  pacingOf(id: string): ThreadPacing | null {
    return this.pacings.get(id)?.() ?? null;
  }

  /** Has what is read next of these media come from their volumes, as far as file systems allow; tells how of each. @param ids media; absent: all */
  async emptyCaches(ids: Iterable<string> = this.opened.keys()): Promise<ReadonlyMap<string, ColdWay>> {
    const ways = new Map<string, ColdWay>();
    for (const id of new Set(ids)) {
      const file = this.opened.get(id);
      if (file) ways.set(id, await file.emptyCache());
    }
    return ways;
  }

  /** Throws EngineError when a path no longer leads to the opened file. */
  async assertStillThere(): Promise<void> {
    for (const file of this.opened.values()) await file.assertStillThere();
  }

  async close(): Promise<void> {
    this.devices.close();
    await Promise.all([...this.opened.values()].map((file) => file.close()));
    if (this.folder !== null) await rm(this.folder, { recursive: true, force: true });
  }
}

/** The gate of a simulated volume, with room for its largest file at every place. */
function openGate(
  { volumeId, standIn }: TimelineSpec['media'][string],
  specs: TimelineSpec['media'],
  opened: ReadonlyMap<string, MediaBytes>,
): { gate: StandInGate; readers: number; spacing: number } {
  const paths = new Set(
    Object.values(specs)
      .filter((spec) => spec.volumeId === volumeId)
      .map(({ path }) => path),
  );
  const sizes = [...opened.values()].filter(({ path }) => paths.has(path)).map(({ size }) => size);
  const spacing = greatest(sizes, 1);
  return {
    gate: new StandInGate(standIn as StorageModel, mostStreams, spacing * mostPlaces),
    readers: 0,
    spacing,
  };
}

/** Filters read their tables from files. */
export async function writeLooks(
  looks: Readonly<Record<string, string>>,
  folder: string,
): Promise<GraphFiles> {
  const found = new Map<string, readonly LookFile[]>();
  for (const [id, text] of Object.entries(looks)) {
    const files = tablesOf(parseCube(text)).map((table, at) => ({
      table,
      file: { path: join(folder, `${found.size}-${at}.cube`), dimensions: table.dimensions },
    }));
    for (const { table, file } of files) await writeFile(file.path, plainCube(table));
    found.set(
      id,
      files.map(({ file }) => file),
    );
  }
  return {
    font: createRequire(import.meta.url).resolve(
      '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2',
    ),
    look: (id) => found.get(id) ?? [],
  };
}
