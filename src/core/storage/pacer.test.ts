import { seededRandom } from '../stats/random';
import type { ArrayLayout } from './array';
import { expectedRate, type ScriptedFault, type StorageModel } from './model';
import { mostOwedUs, owedUs } from './hostLate';
import { Pacer, pacerState, pacerStateBytes, Refusal } from './pacer';
import { modelOf } from './presets';

const addressBytes = 2 ** 31;
const make = (model: StorageModel, streams = 1) =>
  new Pacer(
    model,
    pacerState(new ArrayBuffer(pacerStateBytes(model.drives, streams, addressBytes)), model.drives, streams),
  );

interface Walk {
  readonly from?: number;
  readonly bytes: number;
  readonly block?: number;
  readonly write?: boolean;
  readonly stream?: number;
  readonly lateUs?: number;
  readonly jump?: number;
  readonly startUs?: number;
}

/** A client that asks for the next block when it has the one before, `lateUs` late each time. Returns when it was done and each block's time. */
function walk(
  pacer: Pacer,
  { from = 0, bytes, block = 2 ** 20, write = false, stream = 0, lateUs = 0, jump = 0, startUs = 0 }: Walk,
): { endUs: number; times: number[] } {
  let now = startUs;
  const times: number[] = [];
  for (let at = 0; at < bytes; at += block) {
    const due = Math.max(
      now,
      pacer.admit({ stream, address: from + at * (1 + jump), bytes: block, write }, now),
    );
    times.push(due - now);
    now = due + lateUs;
  }
  return { endUs: now, times };
}

const rateOf = (bytes: number, endUs: number, startUs = 0) => (bytes * 1e6) / (endUs - startUs);

test.each(['ethernet-1', 'ethernet-2.5', 'ethernet-10-jumbo', 'usb-5', 'card-104', 'card-312'])(
  'a client that reads on through %s gets the arithmetic rate, also when it wakes late',
  (link) => {
    const model = modelOf(link, 'nvme');
    const expected = expectedRate(model, false, 2 ** 20).bytesPerSecond;
    for (const lateUs of [0, 600]) {
      const { endUs } = walk(make(model), { bytes: 600 * 2 ** 20, lateUs });
      expect(rateOf(600 * 2 ** 20, endUs) / expected).toBeGreaterThan(0.99);
      expect(rateOf(600 * 2 ** 20, endUs) / expected).toBeLessThan(1.02);
    }
  },
);

test('a host that is late now and then costs a stand-in no rate, as long as it carries more on the whole', () => {
  const model = modelOf('ethernet-10-jumbo', 'nvme');
  const block = 2 ** 20;
  const expected = expectedRate(model, false, block).bytesPerSecond;
  const serviceUs = (block * 1e6) / expected;
  const rate = (slowness: number, isOwed: boolean) => {
    const pacer = make(model);
    const random = seededRandom(5);
    let [now, owed] = [0, 0];
    for (let at = 0; at < 1_000; at++) {
      const modelUs = pacer.admit({ stream: 0, address: at * block, bytes: block, write: false }, now - owed);
      // One block in fifty takes forty times as long.
      const hostUs = serviceUs * slowness * (random() < 0.02 ? 40 : 1);
      now = Math.max(now + hostUs, modelUs);
      owed = isOwed ? owedUs(now, modelUs) : 0;
    }
    return rateOf(1_000 * block, now) / expected;
  };
  // A host that carries a quarter more than the model, on the whole.
  expect(rate(0.8 / 1.78, true)).toBeGreaterThan(0.98);
  expect(rate(0.8 / 1.78, true)).toBeLessThan(1.02);
  expect(rate(0.8 / 1.78, false)).toBeLessThan(0.9);
  // One that carries less is told as it is.
  expect(rate(1.25 / 1.78, true)).toBeLessThan(0.84);
  // And what it owes is bounded.
  expect(owedUs(1e9, 0)).toBe(mostOwedUs);
  expect(owedUs(5, -Infinity)).toBe(0);
});

test('a host that answers a little early gains a stand-in nothing', () => {
  // Four drives, one request after the other: each finds its drive free, and would begin as early as it is asked.
  const { drive, ...model } = modelOf('ethernet-10-jumbo', 'nvme');
  const took = (earlyUs: number) => {
    const pacer = make({ ...model, drives: 4, drive: { ...drive, accessUs: 8_000 } });
    let [now, owed] = [0, 0];
    for (let at = 0; at < 128; at++) {
      const address = (at * 97 + 1) * 2 ** 24;
      const modelUs = pacer.admit({ stream: 0, address, bytes: 4_096, write: false }, now - owed);
      now = modelUs - earlyUs;
      owed = owedUs(now, modelUs);
    }
    return now;
  };
  expect(took(0)).toBeGreaterThan(128 * 8_000);
  // Only the last of them may be early.
  expect(took(40)).toBeCloseTo(took(0) - 40, 3);
});

test('a client that pauses does not get the pause back', () => {
  const model = modelOf('ethernet-1', 'nvme');
  const pacer = make(model);
  walk(pacer, { bytes: 2 ** 20 });
  const { times } = walk(pacer, { from: 2 ** 20, bytes: 40 * 2 ** 20, startUs: 10e6 });
  const taken = times.reduce((sum, us) => sum + us, 0);
  expect(taken).toBeGreaterThan((40 * 2 ** 20 * 1e6) / 117.67e6 - 60_000);
});

test('a jump pays a round trip and an access; by hand', () => {
  const base = modelOf('ethernet-1', 'disk');
  const model = { ...base, link: { ...base.link, payloadShare: 1, roundTripUs: 1_000 } };
  const { times } = walk(make(model), { bytes: 10 * 4_096, block: 4_096, jump: 3 });
  // 1 000 us to ask, 12 000 us to get there, 16.384 us off the disk at 250 MB/s; the link (32.768 us) runs along
  for (const us of times) expect(us).toBeCloseTo(13_016.384, 3);
});

test('two readers share the link, and a rotating disk seeks between them', () => {
  const run = (drive: string) => {
    const pacer = make(modelOf('ethernet-10', drive), 2);
    let now = 0;
    for (let block = 0; block < 100; block++) {
      for (const stream of [0, 1])
        now = Math.max(
          now,
          pacer.admit(
            { stream, address: stream * 2 ** 30 + block * 2 ** 20, bytes: 2 ** 20, write: false },
            now,
          ),
        );
    }
    return rateOf(200 * 2 ** 20, now);
  };
  expect(run('nvme') / 1e6).toBeGreaterThan(1_150);
  expect(run('disk') / 1e6).toBeCloseTo(1.048576 / (0.012 + 1.048576 / 250), 0); // 12 ms for each MiB
});

test('small reads of several streams pay an access once for each MiB that the drives read ahead', () => {
  const pacer = make(modelOf('ethernet-10', 'disk'), 2);
  let now = 0;
  for (let block = 0; block < 160; block++) {
    for (const stream of [0, 1])
      now = Math.max(
        now,
        pacer.admit({ stream, address: stream * 2 ** 30 + block * 65_536, bytes: 65_536, write: false }, now),
      );
  }
  const seconds = 2 * 11 * 0.012 + (320 * 65_536) / 250e6; // ten boundaries and the start, for each
  expect(now / 1e6).toBeCloseTo(seconds, 1);
});

/** Readers that each read on, block after block, for some seconds: what all would get a second if each got no more than the slowest. */
function together(
  model: StorageModel,
  streams: number,
  { block = 2 ** 20, jump = false, seconds = 20 } = {},
): number {
  const pacer = make(model, streams);
  const next = Array.from({ length: streams }, (_, stream) => ({ stream, at: 0, block: 0 }));
  const random = seededRandom(4);
  for (;;) {
    const one = next.reduce((first, other) => (other.at < first.at ? other : first));
    if (one.at > seconds * 1e6)
      return (
        (next.reduce((least, { block: blocks }) => Math.min(least, blocks), Infinity) * streams * block) /
        seconds
      );
    const address = jump ? Math.floor(random() * 500_000) * 4_096 : one.stream * 2 ** 36 + one.block * block;
    one.at = Math.max(
      one.at,
      pacer.admit({ stream: one.stream, address, bytes: block, write: false }, one.at),
    );
    one.block++;
  }
}

test.each<[ArrayLayout['level'], number]>([
  [0, 1],
  [0, 4],
  [1, 2],
  [1, 3],
  [5, 5],
  [6, 8],
  [10, 6],
])('level %i over %i drives gives streams side by side what the arithmetic says', (level, drives) => {
  const model = modelOf('ethernet-25', 'disk', { level, drives });
  for (const streams of [1, 2, 3, 6, 12]) {
    const ratio =
      together(model, streams) / expectedRate(model, false, 2 ** 20, true, streams).bytesPerSecond;
    expect(ratio).toBeGreaterThan(0.95);
    expect(ratio).toBeLessThan(1.05);
  }
});

test('small reads at random grow with the readers, up to the drives that can serve them', () => {
  const model = modelOf('ethernet-25', 'disk', { level: 0, drives: 4 });
  const [one, four, many] = [1, 4, 32].map(
    (readers) => together(model, readers, { block: 4_096, jump: true }) / 4_096,
  );
  expect(one).toBeCloseTo(1e6 / 12_266, 0); // 250 µs to ask, 12 000 to get there, 16 off the disk
  expect(four! / one!).toBeGreaterThan(2.2); // two often want the same drive
  expect(many! / one!).toBeGreaterThan(3.4);
  expect(many! / one!).toBeLessThan(4.3);
});

test('a small write costs the accesses of its level', () => {
  const write = (level: ArrayLayout['level'], drives: number) => {
    const { times } = walk(make(modelOf('ethernet-10', 'disk', { level, drives })), {
      bytes: 10 * 4_096,
      block: 4_096,
      jump: 300,
      write: true,
    });
    return times[5]!;
  };
  expect(write(0, 4) / 1000).toBeCloseTo(12.27, 1);
  expect(write(5, 4) / 1000).toBeCloseTo(24.28, 1); // data and parity are read before they are written
  expect(write(10, 4) / 1000).toBeCloseTo(12.27, 1);
});

test('the first bytes of a server cache come back fast, the rest does not', () => {
  const model = modelOf(
    'ethernet-25',
    'disk',
    { level: 5, drives: 4 },
    { cache: { bytes: 64 * 2 ** 20, bytesPerSecond: 3_000e6 } },
  );
  const pacer = make(model);
  const first = walk(pacer, { bytes: 512 * 2 ** 20 });
  expect(rateOf(512 * 2 ** 20, first.endUs) / 1e6).toBeCloseTo(750, -2);
  const again = walk(pacer, { bytes: 64 * 2 ** 20, startUs: first.endUs + 1e6 });
  expect(rateOf(64 * 2 ** 20, again.endUs, first.endUs + 1e6) / 1e6).toBeGreaterThan(2_000);
  const rest = walk(pacer, { from: 64 * 2 ** 20, bytes: 448 * 2 ** 20, startUs: again.endUs + 1e6 });
  expect(rateOf(448 * 2 ** 20, rest.endUs, again.endUs + 1e6) / 1e6).toBeLessThan(900);
});

test('a burst cache takes its bytes fast, then the drive writes on at its own rate', () => {
  const base = modelOf('usb-20', 'ssd-burst');
  const model = { ...base, drive: { ...base.drive, burst: { bytes: 100 * 2 ** 20, bytesPerSecond: 900e6 } } };
  const { times } = walk(make(model), { bytes: 300 * 2 ** 20, write: true });
  const rate = (from: number, to: number) =>
    rateOf(
      (to - from) * 2 ** 20,
      times.slice(from, to).reduce((sum, us) => sum + us, 0),
    );
  expect(rate(10, 95) / 1e6).toBeCloseTo(900, -1);
  expect(rate(160, 290) / 1e6).toBeCloseTo(420, -1);
});

test('other clients take their mean share, unevenly, and the same for the same seed', () => {
  const run = (seed: number) =>
    walk(make(modelOf('ethernet-1', 'nvme', undefined, { othersBytesPerSecond: 40e6, seed })), {
      bytes: 1000 * 2 ** 20,
    });
  const { endUs, times } = run(3);
  expect(rateOf(1000 * 2 ** 20, endUs) / 1e6).toBeGreaterThan(77.67 * 0.93);
  expect(rateOf(1000 * 2 ** 20, endUs) / 1e6).toBeLessThan(77.67 * 1.07);
  expect(Math.max(...times.slice(60)) / Math.min(...times.slice(60))).toBeGreaterThan(1.2);
  expect(run(3).times).toEqual(times);
  expect(run(4).times).not.toEqual(times);
});

test('jitter adds its mean to answers and does not lower the rate of one who reads on', () => {
  const quiet = walk(make(modelOf('ethernet-10', 'nvme')), { bytes: 400 * 2 ** 20, jump: 1 });
  const shaky = walk(make(modelOf('ethernet-10', 'nvme', undefined, { jitterUs: 2_000 })), {
    bytes: 400 * 2 ** 20,
    jump: 1,
  });
  expect((shaky.endUs - quiet.endUs) / 400).toBeGreaterThan(1_600);
  expect((shaky.endUs - quiet.endUs) / 400).toBeLessThan(2_400);
  const sequential = walk(make(modelOf('ethernet-1', 'nvme', undefined, { jitterUs: 2_000 })), {
    bytes: 400 * 2 ** 20,
  });
  expect(rateOf(400 * 2 ** 20, sequential.endUs) / 117.67e6).toBeGreaterThan(0.98);
});

function underFault(fault: ScriptedFault, write = false, drives = 1) {
  return walk(make(modelOf('ethernet-10', 'disk', { level: 0, drives }, { fault })), {
    bytes: 500 * 2 ** 20,
    write,
  });
}

test('scripted faults: drop-out, slow drive, lower link', () => {
  const plain = walk(make(modelOf('ethernet-10', 'disk')), { bytes: 500 * 2 ** 20 });
  const dropped = underFault({ kind: 'drop-out', atSeconds: 1, seconds: 3 });
  expect((dropped.endUs - plain.endUs) / 1e6).toBeCloseTo(3, 0);
  expect(Math.max(...dropped.times) / 1e6).toBeCloseTo(3, 0);
  const slow = underFault({ kind: 'slow-drive', atSeconds: 0, share: 0.5 }, false, 2);
  expect(rateOf(500 * 2 ** 20, slow.endUs) / 1e6).toBeCloseTo(250, -1); // two drives, both at the slow one's half
  const lowered = underFault({ kind: 'lower-link', atSeconds: 0, lineBitsPerSecond: 1e9 });
  expect(rateOf(500 * 2 ** 20, lowered.endUs) / 1e6).toBeCloseTo(117.7, 0);
});

test('a slow drive holds a stripe to its rate; a mirror goes on reading from the other', () => {
  const rate = (level: ArrayLayout['level'], drives: number, write: boolean) => {
    const { endUs } = walk(
      make(
        modelOf(
          'ethernet-25',
          'disk',
          { level, drives },
          { fault: { kind: 'slow-drive', atSeconds: 0, share: 0.25 } },
        ),
      ),
      { bytes: 500 * 2 ** 20, write },
    );
    return rateOf(500 * 2 ** 20, endUs) / 1e6;
  };
  expect(rate(5, 5, false)).toBeCloseTo(4 * 62.5, -1);
  expect(rate(1, 2, false)).toBeCloseTo(250, -1);
  expect(rate(1, 2, true)).toBeCloseTo(0.25 * 245, -1);
});

test('a stand-in that is full, read-only or broken refuses as a real volume does', () => {
  const refusal = (fault: ScriptedFault, write: boolean) => {
    try {
      underFault(fault, write);
    } catch (error) {
      return error instanceof Refusal ? error.code : error;
    }
    return null;
  };
  expect(refusal({ kind: 'full', afterBytes: 100 * 2 ** 20 }, true)).toBe('ENOSPC');
  expect(refusal({ kind: 'full', afterBytes: 600 * 2 ** 20 }, true)).toBeNull();
  expect(refusal({ kind: 'read-only' }, true)).toBe('EROFS');
  expect(refusal({ kind: 'read-only' }, false)).toBeNull();
  expect(refusal({ kind: 'read-error', atSeconds: 1 }, false)).toBe('EIO');
});
