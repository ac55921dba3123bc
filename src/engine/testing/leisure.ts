import { encodePacketTable } from '@/core/media/packetTable';
import { packedSound } from '../media/soundIndex';
import { probeClip } from '../media/probe';
import { prepareClip } from '../playback/clipRun';
import type { PlaySource } from '../playback/playSource';
import { Player } from '../playback/player';
import { ViewerTap } from '../playback/viewerTap';
import { plainSettings, type RunOptions, type TestRun } from './testTrial';
import { VirtualClock, virtualPresenter } from './virtualClock';

/** A source that does its real work while a clock stands still. */
class Unhurried<Decoded> implements PlaySource<Decoded> {
  constructor(
    private readonly source: PlaySource<Decoded>,
    private readonly clock: VirtualClock,
  ) {}

  read: PlaySource<Decoded>['read'] = (rows) => this.clock.during(this.source.read(rows));
  decode: PlaySource<Decoded>['decode'] = (piece, slot) => this.clock.during(this.source.decode(piece, slot));
  end: PlaySource<Decoded>['end'] = () => this.clock.during(this.source.end());
  receive: PlaySource<Decoded>['receive'] = () => this.clock.during(this.source.receive());
  process: PlaySource<Decoded>['process'] = (slot, decoded) =>
    this.clock.during(this.source.process(slot, decoded));
  drop: PlaySource<Decoded>['drop'] = (decoded) => this.source.drop(decoded);
  release: PlaySource<Decoded>['release'] = (picture) => this.source.release(picture);
  shownFrame: PlaySource<Decoded>['shownFrame'] = (slot, picture) => this.source.shownFrame(slot, picture);
  close: PlaySource<Decoded>['close'] = () => this.source.close();
  get hasFrame() {
    return this.source.hasFrame;
  }
  get faults() {
    return this.source.faults;
  }
  get failure() {
    return this.source.failure;
  }
  get frameCode() {
    return this.source.frameCode;
  }
}

/** Plays a clip under hold time with all its reading, decoding and processing taking no time at all: nothing is late, on any machine. */
export async function playAtLeisure(
  path: string,
  { settings, readFrom, knownFaults }: Pick<RunOptions, 'settings' | 'readFrom' | 'knownFaults'> = {},
): Promise<Pick<TestRun, 'trace' | 'probed' | 'faults' | 'findings'>> {
  const probed = await probeClip(path);
  const own = { ...plainSettings, ...settings };
  const prepared = await prepareClip(
    {
      kind: 'clip',
      path: readFrom ?? path,
      standIn: null,
      setup: probed.setup,
      format: probed.format,
      rate: probed.format.rate,
      packets: encodePacketTable(probed.packets),
      sound: packedSound(probed.sound),
      knownFaults,
    },
    own,
    () => undefined,
  );
  const clock = new VirtualClock();
  const player = new Player({
    ...prepared,
    source: new Unhurried(prepared.source, clock),
    settings: own,
    clock,
    openPresenter: virtualPresenter(clock),
    viewer: new ViewerTap(() => undefined),
    onStart: () => undefined,
  });
  try {
    await clock.run(player.run());
    return {
      trace: prepared.recorder.finished(),
      probed,
      faults: prepared.source.faults,
      findings: await prepared.afterwards(),
    };
  } finally {
    await prepared.close();
  }
}
