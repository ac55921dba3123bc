import fc from 'fast-check';
import { slotState } from '@/core/playback/slots';
import type { TraceView } from '@/core/playback/traceView';
import { causeStyles } from './causes';
import { paintRibbon, type RibbonData, type RibbonInk } from './paintRibbon';
import { paintRiver, stageMs, type RiverInk } from './paintRiver';
import { clampRange, findSlot, revealSlot, zoomRange } from './slotAxis';

interface Rect {
  x: number;
  y: number;
  width: number;
  height: number;
  ink: string;
}

/** A pen that writes down what it is told to fill. */
function recordingPen(): { pen: CanvasRenderingContext2D; rects: Rect[]; outlines: Rect[] } {
  const rects: Rect[] = [];
  const outlines: Rect[] = [];
  const pen = {
    fillStyle: '',
    strokeStyle: '',
    lineWidth: 1,
    clearRect: () => undefined,
    fillRect(x: number, y: number, width: number, height: number) {
      rects.push({ x, y, width, height, ink: pen.fillStyle });
    },
    strokeRect(x: number, y: number, width: number, height: number) {
      outlines.push({ x, y, width, height, ink: pen.strokeStyle });
    },
  };
  return { pen: pen as unknown as CanvasRenderingContext2D, rects, outlines };
}

const ribbonInk: RibbonInk = {
  slot: 'slot',
  late: 'late',
  empty: 'empty',
  ground: 'ground',
  ink: 'ink',
  unknown: 'unknown',
  causes: { read: 'read', decode: 'decode', process: 'process', present: 'present', media: 'media' },
};

function ribbon(slots: number, change: (data: RibbonData) => void = () => undefined): RibbonData {
  const data = { slots, state: new Uint8Array(slots).fill(slotState.shown), charge: new Uint8Array(slots) };
  change(data);
  return data;
}

describe('ribbon', () => {
  test('what is worse stands taller, and a drop wears its cause', () => {
    const { pen, rects } = recordingPen();
    paintRibbon(
      pen,
      ribbon(4, ({ state, charge }) => {
        state.set([slotState.pending, slotState.shown, slotState.late, slotState.dropped]);
        charge[3] = 2;
      }),
      { from: 0, to: 4 },
      400,
      100,
      ribbonInk,
    );
    expect(rects.map(({ ink }) => ink)).toEqual(['empty', 'slot', 'late', 'decode']);
    const heights = rects.map(({ height }) => height);
    expect(heights).toEqual([...heights].sort((a, b) => a - b));
    expect(rects[3]).toMatchObject({ x: 300, y: 0, height: 100 });
    for (const { y, height } of rects) expect(y + height).toBeCloseTo(100); // all stand on the baseline
  });

  test('causes that only together made a drop share its cell', () => {
    const { pen, rects } = recordingPen();
    paintRibbon(
      pen,
      ribbon(1, ({ state, charge }) => {
        state[0] = slotState.dropped;
        charge[0] = 2 | 4;
      }),
      { from: 0, to: 1 },
      10,
      80,
      ribbonInk,
    );
    expect(rects.map(({ ink, y, height }) => [ink, y, height])).toEqual([
      ['decode', 0, 40],
      ['process', 40, 40],
    ]);
  });

  test('a drop without a cause and a wrong frame are told from others', () => {
    const { pen, rects, outlines } = recordingPen();
    paintRibbon(
      pen,
      ribbon(2, ({ state }) => state.set([slotState.dropped, slotState.wrong])),
      { from: 0, to: 2 },
      40,
      60,
      ribbonInk,
    );
    expect(rects.map(({ ink }) => ink)).toEqual(['unknown', 'ink']);
    expect(outlines).toHaveLength(1);
  });

  test('a picture that is not to be trusted wears a cap, and is found among many', () => {
    const { pen, rects } = recordingPen();
    const doubtful = Uint8Array.of(1, 0, 1);
    paintRibbon(
      pen,
      {
        ...ribbon(3, ({ state }) => {
          state[2] = slotState.dropped;
        }),
        doubtful,
      },
      { from: 0, to: 3 },
      30,
      100,
      ribbonInk,
    );
    expect(rects.map(({ ink }) => ink)).toEqual(['slot', 'media', 'slot', 'unknown']);
    expect(rects[1]!.y + rects[1]!.height).toBeCloseTo(rects[0]!.y);
    const wrong = recordingPen();
    paintRibbon(
      wrong.pen,
      {
        ...ribbon(1, ({ state }) => {
          state[0] = slotState.wrong;
        }),
        doubtful: Uint8Array.of(1),
      },
      { from: 0, to: 1 },
      10,
      100,
      ribbonInk,
    );
    expect(wrong.rects.map(({ ink, y }) => [ink, y])).toEqual([
      ['ink', 0],
      ['media', 0],
    ]);
    const many = recordingPen();
    paintRibbon(
      many.pen,
      { ...ribbon(1_000), doubtful: new Uint8Array(1_000).fill(1, 555, 556) },
      { from: 0, to: 1_000 },
      100,
      100,
      ribbonInk,
    );
    expect(many.rects.filter(({ ink }) => ink === 'media').map(({ x }) => x)).toEqual([55]);
  });

  test('a pixel over many slots shows the worst of them, wherever it stands', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 99_999 }), (drop) => {
        const { pen, rects } = recordingPen();
        paintRibbon(
          pen,
          ribbon(100_000, ({ state, charge }) => {
            state[drop] = slotState.dropped;
            charge[drop] = 4;
          }),
          { from: 0, to: 100_000 },
          500,
          50,
          ribbonInk,
        );
        const drops = rects.filter(({ ink }) => ink === 'process');
        return rects.length === 500 && drops.length === 1 && drops[0]!.x === Math.floor(drop / 200);
      }),
      { numRuns: 12 },
    );
  });

  test('only slots in sight are painted', () => {
    const { pen, rects } = recordingPen();
    paintRibbon(pen, ribbon(1000), { from: 500, to: 520 }, 1000, 50, ribbonInk);
    expect(rects).toHaveLength(20);
    expect(rects[0]!.x).toBe(0);
  });
});

describe('stage river', () => {
  const ink: RiverInk = {
    read: 'read',
    decode: 'decode',
    process: 'process',
    present: 'present',
    line: '',
    ink: '',
  };
  function view(slots: number): TraceView {
    const wide = () => new Float32Array(slots);
    const narrow = () => new Uint8Array(slots);
    return {
      slots,
      sound: narrow(),
      soundReadMs: wide(),
      soundDecodeMs: wide(),
      soundMixMs: wide(),
      state: narrow(),
      charge: narrow(),
      skipped: narrow(),
      doubtful: narrow(),
      readDepth: narrow(),
      decodedDepth: narrow(),
      readyDepth: narrow(),
      readMs: wide().fill(10),
      decodeMs: wide().fill(20),
      processMs: wide().fill(5),
      errorMs: wide(),
      bytes: wide(),
    };
  }

  test('stages stand on each other in the order of work, to scale', () => {
    const { pen, rects } = recordingPen();
    paintRiver(pen, view(1), { from: 0, to: 1 }, 10, 100, 50, ink);
    expect(rects.map(({ ink: stage, y, height }) => [stage, y, height])).toEqual([
      ['read', 80, 20],
      ['decode', 40, 40],
      ['process', 30, 10],
    ]);
  });

  test('a tall slot ends at the top, and stages that never ran take no room', () => {
    const { pen, rects } = recordingPen();
    const tall = view(1);
    tall.decodeMs[0] = 900;
    tall.readMs[0] = Number.NaN;
    paintRiver(pen, tall, { from: 0, to: 1 }, 10, 100, 50, ink);
    expect(rects.map(({ ink: stage }) => stage)).toEqual(['decode']);
    expect(rects[0]).toMatchObject({ y: 0, height: 100 });
    expect(stageMs(tall, 'readMs', 0)).toBe(0);
  });

  test('a pixel over many slots shows the slowest', () => {
    const { pen, rects } = recordingPen();
    const many = view(1000);
    many.decodeMs[777] = 35;
    paintRiver(pen, many, { from: 0, to: 1000 }, 100, 100, 50, ink);
    const tallest = rects
      .filter(({ ink: stage }) => stage === 'decode')
      .reduce((a, b) => (b.height > a.height ? b : a));
    expect(tallest).toMatchObject({ x: 77, height: 70 });
  });
});

describe('slot axis', () => {
  const range = fc
    .record({
      from: fc.double({ min: -500, max: 5000, noNaN: true }),
      span: fc.double({ min: 0.1, max: 5000, noNaN: true }),
    })
    .map(({ from, span }) => ({ from, to: from + span }));
  const slots = fc.integer({ min: 1, max: 4000 });

  test('a range never leaves the timeline, and never shows less than a few slots', () => {
    fc.assert(
      fc.property(range, slots, fc.double({ min: 0.1, max: 10, noNaN: true }), (given, count, factor) => {
        for (const { from, to } of [
          clampRange(given, count),
          zoomRange(clampRange(given, count), factor, given.from, count),
        ]) {
          expect(from).toBeGreaterThanOrEqual(-1e-6);
          expect(to).toBeLessThanOrEqual(count + 1e-6);
          expect(to - from).toBeGreaterThanOrEqual(Math.min(8, count) - 1e-6);
        }
      }),
    );
  });

  test('zooming keeps the slot under the pointer where it is', () => {
    const { from, to } = zoomRange({ from: 100, to: 300 }, 2, 150, 1000);
    expect({ from, to }).toEqual({ from: 125, to: 225 });
    expect((150 - from) / (to - from)).toBeCloseTo((150 - 100) / 200);
  });

  test('a slot is brought in sight with no more movement than needed', () => {
    expect(revealSlot({ from: 100, to: 200 }, 150, 1000)).toEqual({ from: 100, to: 200 });
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 999 }), (slot) => {
        const { from, to } = revealSlot({ from: 100, to: 200 }, slot, 1000);
        return from <= slot && slot + 1 <= to && Math.abs(to - from - 100) < 1e-9;
      }),
    );
  });

  test('drops are found both ways, and none beyond the ends', () => {
    const drops = new Set([5, 9]);
    const is = (slot: number) => drops.has(slot);
    expect([
      findSlot(0, 1, 20, is),
      findSlot(5, 1, 20, is),
      findSlot(9, 1, 20, is),
      findSlot(9, -1, 20, is),
      findSlot(5, -1, 20, is),
    ]).toEqual([5, 9, null, 5, null]);
  });
});

test('every cause has a word, a hatching and a colour of its own', () => {
  const styles = Object.values(causeStyles);
  for (const pick of ['word', 'hatch', 'variable'] as const)
    expect(new Set(styles.map((style) => style[pick])).size).toBe(styles.length);
});
