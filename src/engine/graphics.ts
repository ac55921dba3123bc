import { join } from 'node:path';
import { engineWork, noGraphics, type GraphicsLook } from '@/core/rig/graphics';
import { monotonicUs } from './clock';
import { entriesOf, linkOf, numbersIn, textOf } from './systemFiles';
import { greatest } from '@/core/stats/extremes';

/** What one client of a graphics driver has done so far. */
interface Client {
  /** By engine. Of some drivers the time that it worked, ns; of others its cycles, with all that there were meanwhile. */
  readonly engines: ReadonlyMap<
    string,
    { readonly busy: number; readonly of: number | null; readonly capacity: number }
  >;
  readonly memoryBytes: number | null;
}

/**
 * What a rig's graphics do, of all and of the trial's processes, as the kernel tells.
 *
 * Source: kernel, Documentation/gpu/drm-usage-stats (`drm-engine-*`, `drm-cycles-*`, `drm-resident-*` of an open device in
 * /proc/PID/fdinfo) and Documentation/gpu/amdgpu/thermal, driver-core (`gpu_busy_percent`, `mem_info_vram_used`).
 */
export class GraphicsMeter {
  private readonly busy: readonly string[];
  private readonly memory: readonly string[];
  /** Whether there is a device that a process could have open. */
  private readonly hasNodes: boolean;
  private last = new Map<string, Client>();
  private lastUs: number;

  /** @param root in which `sys` and `proc` are; another one for tests @param now µs */
  constructor(
    private readonly root = '/',
    private readonly now = monotonicUs,
  ) {
    const nodes = entriesOf(join(root, 'sys/class/drm'));
    this.hasNodes = nodes.some((path) => /\/(card|renderD)\d+$/.test(path));
    const cards = nodes.filter((path) => /\/card\d+$/.test(path));
    const files = (name: string) =>
      cards.map((card) => join(card, 'device', name)).filter((file) => numbersIn([file]).length > 0);
    this.busy = files('gpu_busy_percent');
    this.memory = files('mem_info_vram_used');
    this.lastUs = now();
  }

  /** What they tell now; loads of the trial's, since the look before. @param pids the trial's processes */
  look(pids: readonly number[]): GraphicsLook {
    if (!this.hasNodes) return noGraphics;
    const busy = numbersIn(this.busy);
    const memory = numbersIn(this.memory);
    return {
      graphicsLoad: busy.length === 0 ? null : greatest(busy) / 100,
      graphicsMemoryBytes: memory.length === 0 ? null : memory.reduce((sum, bytes) => sum + bytes, 0),
      ...this.trial(pids),
    };
  }

  private trial(pids: readonly number[]) {
    const nowUs = this.now();
    const spanNs = Math.max(1, (nowUs - this.lastUs) * 1000);
    const clients = new Map(pids.flatMap((pid) => [...this.clientsOf(pid)]));
    const loads = new Map<string, number>();
    for (const [id, { engines }] of clients)
      for (const [name, { busy, of, capacity }] of engines) {
        const before = this.last.get(id)?.engines.get(name);
        // What a client did before it was seen is of a time that is not known.
        const grown = before ? Math.max(0, busy - before.busy) : 0;
        const whole = of === null ? spanNs : Math.max(1, of - (before?.of ?? of));
        // Engines of several devices are not the same one.
        const key = `${id.split(' ')[0]} ${name}`;
        loads.set(key, (loads.get(key) ?? 0) + grown / whole / capacity);
      }
    this.last = clients;
    this.lastUs = nowUs;
    const most = (work: ReturnType<typeof engineWork>[number]) => {
      const values = [...loads].flatMap(([key, load]) =>
        engineWork(key.slice(key.indexOf(' ') + 1)).includes(work) ? [load] : [],
      );
      return values.length === 0 ? null : Math.min(1, greatest(values));
    };
    const bytes = [...clients.values()].flatMap(({ memoryBytes }) => memoryBytes ?? []);
    return {
      trialGraphicsLoad: most('draw'),
      trialDecodeEngineLoad: most('decode'),
      trialEncodeEngineLoad: most('encode'),
      trialGraphicsMemoryBytes: bytes.length === 0 ? null : bytes.reduce((sum, one) => sum + one, 0),
    };
  }

  /** Clients of graphics drivers that a process has open, by device and number: one that is open twice is one. */
  private clientsOf(pid: number): Map<string, Client> {
    const clients = new Map<string, Client>();
    for (const file of entriesOf(join(this.root, `proc/${pid}/fd`))) {
      if (!linkOf(file)?.includes('/dev/dri/')) continue;
      const text = textOf(file.replace(/\/fd\/(\d+)$/, '/fdinfo/$1'));
      const lines = new Map(
        (text ?? '').split('\n').flatMap((line): [string, string][] => {
          const [, key, value] = /^(drm-[^:]+):\s*(.*)$/.exec(line) ?? [];
          return key !== undefined && value !== undefined ? [[key, value]] : [];
        }),
      );
      const id = lines.get('drm-client-id');
      if (id !== undefined)
        clients.set(`${lines.get('drm-pdev') ?? lines.get('drm-driver') ?? ''} ${id}`, clientOf(lines));
    }
    return clients;
  }
}

function clientOf(lines: ReadonlyMap<string, string>): Client {
  const figure = (key: string) => {
    const value = Number.parseInt(lines.get(key) ?? '', 10);
    return Number.isFinite(value) ? value : null;
  };
  const engines = new Map<string, { busy: number; of: number | null; capacity: number }>();
  for (const key of lines.keys()) {
    const [, kind, name] = /^drm-(engine|cycles)-(?!capacity-)(.+)$/.exec(key) ?? [];
    const busy = figure(key);
    if (kind === undefined || name === undefined || busy === null) continue;
    const of = kind === 'cycles' ? figure(`drm-total-cycles-${name}`) : null;
    // Cycles of which nobody says how many there could have been tell no load.
    if (kind === 'cycles' && of === null) continue;
    engines.set(name, { busy, of, capacity: Math.max(1, figure(`drm-engine-capacity-${name}`) ?? 1) });
  }
  return { engines, memoryBytes: memoryOf(lines) };
}

/** Bytes that a client has on its device; as older drivers name it where newer names are not told. */
function memoryOf(lines: ReadonlyMap<string, string>): number | null {
  const units: Readonly<Record<string, number>> = { KiB: 2 ** 10, MiB: 2 ** 20 };
  const total = (kind: string) => {
    const found = [...lines].flatMap(([key, value]) => {
      const [, count, unit = ''] = /^(\d+)(?: (KiB|MiB))?$/.exec(value) ?? [];
      return key.startsWith(`drm-${kind}-`) && count !== undefined
        ? [Number(count) * (units[unit] ?? 1)]
        : [];
    });
    return found.length === 0 ? null : found.reduce((sum, bytes) => sum + bytes, 0);
  };
  return total('resident') ?? total('memory');
}
