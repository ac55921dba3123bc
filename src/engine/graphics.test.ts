import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { noGraphics } from '@/core/rig/graphics';
import { GraphicsMeter } from './graphics';

let root: string;
let nowUs = 0;
beforeEach(async () => {
  root = await mkdtemp(join(tmpdir(), 'navvy-graphics-'));
  nowUs = 0;
});
afterEach(() => rm(root, { recursive: true }));

async function write(files: Readonly<Record<string, string>>): Promise<void> {
  for (const [path, text] of Object.entries(files)) {
    await mkdir(dirname(join(root, path)), { recursive: true });
    await writeFile(join(root, path), `${text}\n`);
  }
}

/** A device that a process has open, with what its driver says of it. */
async function opened(pid: number, fd: number, lines: Readonly<Record<string, string>>): Promise<void> {
  const link = join(root, `proc/${pid}/fd/${fd}`);
  await mkdir(dirname(link), { recursive: true });
  await symlink('/dev/dri/renderD128', link).catch(() => undefined);
  await write({
    [`proc/${pid}/fdinfo/${fd}`]: [
      'pos:\t0',
      ...Object.entries(lines).map(([key, value]) => `${key}:\t${value}`),
    ].join('\n'),
  });
}

const graphics = () => new GraphicsMeter(root, () => nowUs);
const card = 'sys/class/drm/card0/device';
const device = { 'drm-driver': 'harbour', 'drm-pdev': '0000:03:00.0', 'drm-client-id': '17' };

test('of all: the load and the memory of the devices, as the kernel tells', async () => {
  await write({
    [`${card}/gpu_busy_percent`]: '37',
    [`${card}/mem_info_vram_used`]: '1073741824',
    'sys/class/drm/card1/device/gpu_busy_percent': '12',
    'sys/class/drm/card0-HDMI-A-1/status': 'connected',
  });
  const meter = graphics();
  expect(meter.look([])).toEqual({ ...noGraphics, graphicsLoad: 0.37, graphicsMemoryBytes: 2 ** 30 });
  await rm(join(root, card), { recursive: true });
  expect(meter.look([])).toMatchObject({ graphicsLoad: 0.12, graphicsMemoryBytes: null });
});

test('of the trial: what its engines worked since the look before, each once however often it is open', async () => {
  await write({ 'sys/class/drm/renderD128/dev': '226:128' });
  const at = (gfx: number, enc: number) => ({
    ...device,
    'drm-engine-gfx': `${gfx} ns`,
    'drm-engine-enc': `${enc} ns`,
    'drm-engine-capacity-enc': '2',
    'drm-memory-vram': '2048 KiB',
    'drm-memory-gtt': '1 MiB',
  });
  await opened(40, 7, at(5e9, 0));
  await opened(40, 9, at(5e9, 0));
  const meter = graphics();
  expect(meter.look([40])).toMatchObject({ trialGraphicsLoad: 0 }); // what was before is of no known time
  nowUs = 500_000;
  for (const fd of [7, 9]) await opened(40, fd, at(5.1e9, 0.6e9));
  await opened(41, 3, { ...at(9e9, 9e9), 'drm-client-id': '18' }); // not one of the trial's
  expect(meter.look([40])).toEqual({
    ...noGraphics,
    trialGraphicsLoad: expect.closeTo(0.2, 6) as number,
    trialEncodeEngineLoad: expect.closeTo(0.6, 6) as number,
    trialGraphicsMemoryBytes: 3 * 2 ** 20,
  });
  nowUs = 1_000_000;
  await opened(42, 3, { ...at(1e9, 0), 'drm-client-id': '19' });
  for (const fd of [7, 9]) await opened(40, fd, at(5.2e9, 0.6e9));
  meter.look([40, 42]);
  nowUs = 1_500_000;
  for (const fd of [7, 9]) await opened(40, fd, at(5.3e9, 0.6e9));
  await opened(42, 3, { ...at(1.15e9, 0), 'drm-client-id': '19' });
  expect(meter.look([40, 42]).trialGraphicsLoad).toBeCloseTo(0.5, 6); // of two processes on one engine
});

test('drivers that count cycles, and one engine for decoding and encoding', async () => {
  await write({ 'sys/class/drm/card0/dev': '226:0' });
  const at = (busy: number, all: number) => ({
    ...device,
    'drm-cycles-vcs': String(busy),
    'drm-total-cycles-vcs': String(all),
    'drm-cycles-rcs': '77',
    'drm-resident-system': '512 KiB',
    'drm-memory-system': '9 MiB',
  });
  await opened(40, 7, at(1_000, 50_000));
  const meter = graphics();
  meter.look([40]);
  nowUs = 250_000;
  await opened(40, 7, at(4_000, 60_000));
  expect(meter.look([40])).toEqual({
    ...noGraphics,
    trialDecodeEngineLoad: 0.3,
    trialEncodeEngineLoad: 0.3,
    trialGraphicsMemoryBytes: 512 * 2 ** 10,
  });
});

test('a system without such a device tells nothing, nor does a process that is gone', async () => {
  expect(graphics().look([process.pid])).toEqual(noGraphics);
  await write({ 'sys/class/drm/renderD128/dev': '226:128' });
  expect(graphics().look([999_999])).toEqual(noGraphics);
  await write({ 'proc/40/fdinfo/7': 'drm-client-id:\t3\ndrm-engine-gfx:\t5 ns' });
  await mkdir(join(root, 'proc/40/fd'), { recursive: true });
  await symlink('/home/reel.mov', join(root, 'proc/40/fd/7'));
  expect(graphics().look([40])).toEqual(noGraphics);
});
