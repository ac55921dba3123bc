import { mkdir, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Codec, CodecContext, Frame } from 'node-av/lib';
import { encodePacketTable } from '@/core/media/packetTable';
import {
  summariseRate,
  summariseSupport,
  type DecodePass,
  type FrameCosts,
  type SeekCost,
  type StreamsStep,
} from '@/core/decode/result';
import { smallIntra, smallLongGop, smallTenBit } from '@/demo/smallClips';
import type { ClipFaults } from '@/core/media/faults';
import type { DemoClip } from '@/demo/clips';
import { formatsDecodedBy, freeProofClips, proofClips, type ProofClip } from '../codec/deviceProof';
import { judgeDevice, listDevices, readGraphics, softwareRenderer, whatIsMissing } from '../codec/devices';
import type { DecodeCores } from '@/core/decode/result';
import type { WatchedProcess } from '@/server/runner/shared/watchedProcess';
import { FrameAccess } from '../codec/frameAccess';
import { probeClip } from '../media/probe';
import { FrameNoter } from '../rendition/notes';
import { smallClip, startProcess, workFolder } from '../testing/testTrial';
import type { DecodeSettings } from '@/core/kinds/shared/decode';

async function run(
  clip: DemoClip,
  settings: DecodeSettings,
  cores: DecodeCores,
  during?: (host: WatchedProcess<'decode'>) => void,
) {
  const path = await smallClip(clip);
  const probed = await probeClip(path);
  const told = {
    passes: [] as DecodePass[],
    costs: null as FrameCosts | null,
    seeks: [] as SeekCost[],
    memory: null as number | null,
    steps: [] as StreamsStep[],
    faults: null as ClipFaults | null,
  };
  const host: WatchedProcess<'decode'> = await startProcess(
    'decode',
    {
      path,
      setup: probed.setup,
      format: probed.format,
      packets: encodePacketTable(probed.packets),
      settings,
      cores,
    },
    {
      pass: ({ pass }) => {
        told.passes.push(pass);
        during?.(host);
      },
      costs: ({ costs }) => {
        told.costs = costs;
      },
      seeks: ({ seeks }) => told.seeks.push(...seeks),
      memory: ({ bytes }) => {
        told.memory = bytes;
      },
      faults: ({ faults }) => {
        told.faults = faults;
      },
      streams: ({ step }) => told.steps.push(step),
    },
  );
  return { end: await host.ended, probed, ...told };
}

test('a decode rate on one core: one thread, costs by type, and passes as many as asked', async () => {
  const { end, passes, costs, probed } = await run(
    smallLongGop,
    { kind: 'decode-rate', passSeconds: 0.3, passes: 2 },
    'one',
  );
  expect(end.kind).toBe('done');
  expect(passes).toHaveLength(2);
  for (const pass of passes)
    expect(pass).toMatchObject({
      cores: 'one',
      side: 'software',
      threads: 1,
      threadKind: 'none',
      onDevice: 0,
    });
  expect(passes[0]!.cpuUs).toBeGreaterThan(passes[0]!.spanUs * 0.1); // it works all the time, on a core that it may share with several
  expect([...new Set(costs!.type)].sort()).toEqual([1, 2, 3]);
  const result = summariseRate({
    passes,
    costs,
    seeks: [],
    memoryBytes: null,
    format: probed.format,
    meanBitsPerSecond: probed.meanBitsPerSecond,
  });
  expect(result.one!.framesPerSecond.median).toBeGreaterThan(25);
  expect(result.byType.map(({ type }) => type)).toEqual(['I', 'P', 'B']);
});

test('on all cores: memory, and jumps that cost more the further they are from a key frame', async () => {
  const { end, seeks, memory, passes } = await run(
    smallLongGop,
    { kind: 'decode-rate', passSeconds: 0.3, passes: 1 },
    'all',
  );
  expect(end.kind).toBe('done');
  expect(passes[0]!.threads).toBeGreaterThanOrEqual(1);
  expect(memory).toBeGreaterThanOrEqual(0);
  expect(Math.min(...seeks.map(({ distance }) => distance))).toBe(0);
  expect(Math.max(...seeks.map(({ distance }) => distance))).toBeGreaterThan(16);
  const cost = (of: (distance: number) => boolean) =>
    Math.min(...seeks.filter(({ distance }) => of(distance)).map(({ us }) => us)); // the least: what others take only adds to it
  expect(cost((distance) => distance > 16)).toBeGreaterThan(cost((distance) => distance < 8));
});

test('a stand-in gives its frames on its surface at its modelled time with little processor time', async () => {
  const { end, passes } = await run(
    smallLongGop,
    { kind: 'decode-support', deviceId: 'stand-in-neap', passSeconds: 0.3, mostPairs: 3 },
    'one',
  );
  expect(end.kind).toBe('done');
  expect(passes.map(({ side }) => side)).toEqual([
    'software',
    'device',
    'software',
    'device',
    'software',
    'device',
  ]);
  const result = summariseSupport(passes)!;
  expect(result.onDevice).toBe(1);
  expect(result.parts[0]!.cpuUsPerFrame.device).toBeLessThan(result.parts[0]!.cpuUsPerFrame.software);
  for (const pass of passes.filter(({ side }) => side === 'device'))
    expect(pass.spanUs / (pass.frames - 1)).toBeGreaterThan(900); // never faster than its model
});

test('what a stand-in does not support falls back without a word, and is found out', async () => {
  const { end, passes } = await run(
    smallTenBit,
    { kind: 'decode-support', deviceId: 'stand-in-neap', passSeconds: 0.3, mostPairs: 3 },
    'one',
  );
  expect(end.kind).toBe('done');
  expect(summariseSupport(passes)).toMatchObject({
    onDevice: 0,
    check: expect.stringMatching(/silent fallback|gain without device frames/) as string,
  });
  expect(passes.filter(({ side }) => side === 'device').map(({ decoder }) => decoder)).toEqual([
    'prores',
    'prores',
    'prores',
  ]);
});

test('a device that is not there is refused with words', async () => {
  const { end } = await run(
    smallIntra,
    { kind: 'decode-support', deviceId: 'device-none', passSeconds: 0.2, mostPairs: 3 },
    'all',
  );
  expect(end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('The device none cannot be opened') as string,
  });
});

test('streams are ramped until one misses, and every step tells its time to spare', async () => {
  const { end, steps } = await run(
    smallIntra,
    { kind: 'decode-streams', rate: { num: 24, den: 1 }, scale: 'quarter', seconds: 1, mostStreams: 4 },
    'all',
  );
  expect(end.kind).toBe('done');
  expect(steps[0]).toMatchObject({ streams: 1 });
  for (const step of steps) expect(step.clean).toBe(step.missed === 0 && step.leastSpareUs >= 0);
  const impossible = await run(
    smallIntra,
    { kind: 'decode-streams', rate: { num: 100_000, den: 1 }, scale: 'full', seconds: 1, mostStreams: 4 },
    'all',
  );
  expect(impossible.steps).toEqual([expect.objectContaining({ streams: 1, clean: false })]);
});

test('a cancelled trial ends cancelled and keeps its whole passes', async () => {
  const { end, passes } = await run(
    smallIntra,
    { kind: 'decode-rate', passSeconds: 0.2, passes: 20 },
    'all',
    (host) => host.cancel(),
  );
  expect(end.kind).toBe('cancelled');
  expect(passes.length).toBeLessThan(20);
});

test.each([smallIntra, smallLongGop])(
  'frames are found by their number, in any order and twice over',
  async (clip) => {
    const path = await smallClip(clip);
    const { packets, setup, format } = await probeClip(path);
    const reader = await FrameAccess.open({ path, packets, setup, rate: format.rate });
    const noter = new FrameNoter();
    for (const slot of [0, 5, 6, 6, 50, 49, 3, 119, 24, 23]) {
      const frame = await reader.frame(slot);
      expect((await noter.note(frame!)).code).toBe(slot);
      frame!.free();
    }
    noter.close();
    await reader.close();
  },
);

function framesInSoftware({ parameters, packets }: ProofClip): number {
  const codec = Codec.findDecoder(parameters.codecId)!;
  const context = new CodecContext();
  context.allocContext3(codec);
  context.parametersToContext(parameters);
  context.open2Sync(codec);
  const frame = new Frame();
  frame.alloc();
  let frames = 0;
  for (const packet of [...packets, null]) {
    context.sendPacketSync(packet);
    while (context.receiveFrameSync(frame) >= 0) frames++;
  }
  frame.free();
  context.freeContext();
  return frames;
}

test('a decode device is one that gave a decoded frame of its own; what only opens is told apart', async () => {
  const clips = await proofClips();
  expect(clips.map(({ format, packets }) => [format, packets.length])).toEqual(
    ['H.264', 'HEVC', 'VP9', 'AV1', 'MPEG-2', 'Motion JPEG'].map((format) => [format, 8]),
  );
  expect(clips.map(framesInSoftware)).toEqual(clips.map(() => 8));
  expect(formatsDecodedBy(null, clips)).toEqual([]); // they decode, but on no device
  freeProofClips(clips);
  expect(judgeDevice(null, ['H.264', 'AV1'], ['H.264', 'HEVC', 'AV1'])).toEqual({
    usable: true,
    about: 'Decoded a frame of H.264, AV1.',
  });
  const encodes = [
    { codec: 'h264', picture: '8-bit 4:2:0' },
    { codec: 'h264', picture: '10-bit 4:2:0' },
    { codec: 'av1', picture: '8-bit 4:2:0' },
  ] as const;
  expect(judgeDevice(null, [], ['VP9'], encodes)).toEqual({
    usable: false,
    encodes,
    about:
      'Opens, but decodes nothing: no frame came of VP9. Encoded frames of H.264 (8-bit 4:2:0, 10-bit 4:2:0), AV1 (8-bit 4:2:0).',
  });
  expect(judgeDevice(null, [], ['H.264', 'HEVC'])).toEqual({
    usable: false,
    about: 'Opens, but decodes nothing: no frame came of H.264, HEVC.',
  });
  const said = ['Supported layers:', 'Device 0 selected: softpipe (LLVM 15.0.6, 256 bits) (software) (0x0)'];
  expect(judgeDevice(softwareRenderer(said), [], ['H.264'])).toEqual({
    usable: false,
    about:
      'Software renderer (softpipe): it computes on the processor. Opens, but decodes nothing: no frame came of H.264.',
  });
  expect(softwareRenderer(['Device 1 selected: Harbour 9 (discrete) (0x9)'])).toBeNull();
});

test('every device of this machine, however many it has, says what it decoded or why it is none', async () => {
  const real = (await listDevices()).filter(({ simulated }) => !simulated);
  expect(real).not.toHaveLength(0);
  for (const { usable, about } of real)
    expect(about).toMatch(
      usable ? /Decoded a frame of / : /^(No device|No driver|No permission|The device node)|decodes nothing/,
    );
});

test('what a decode device lacks is named, the first thing first', async () => {
  const root = join(await workFolder(), 'graphics');
  const device = join(root, 'sys/bus/pci/devices/0000:00:02.0');
  expect(whatIsMissing(readGraphics(root))).toMatch(/^No device/);
  await mkdir(device, { recursive: true });
  await writeFile(join(device, 'class'), '0x030000\n');
  expect(whatIsMissing(readGraphics(root))).toMatch(
    /^No driver: no kernel driver is bound to the display controller 0000:00:02.0/,
  );
  await symlink('/sys/bus/pci/drivers/some-driver', join(device, 'driver'));
  expect(whatIsMissing(readGraphics(root))).toMatch(/^No device node/);
  await mkdir(join(root, 'dev/dri'), { recursive: true });
  await writeFile(join(root, 'dev/dri/renderD128'), '');
  expect(whatIsMissing(readGraphics(root))).toMatch(/^The device node is there/);
  expect(
    whatIsMissing({ controllers: [], nodes: [{ path: '/dev/dri/renderD128', allowed: false }] }),
  ).toMatch(/^No permission: this user may not use \/dev\/dri\/renderD128/);
});
