import { answerSentence } from '../sentences/playback';
import { hasSound, soundOf, soundState, soundSummary, soundWords } from './sound';
import type { Played } from '../timeline/subject';
import { decodeTrace, emptyTrace, encodeTrace, packedTraceBytes } from './trace';

const slotUs = 40_000;

function traced() {
  const trace = emptyTrace(6);
  trace.sound.set([
    soundState.ready,
    soundState.ready,
    soundState.underRun,
    soundState.underRun,
    soundState.broken,
    soundState.ready,
  ]);
  // The fourth slot's sound was given up before it was begun.
  trace.soundReadUs.set([1_000, 2_000, 50_000, -1, 1_000, 1_000]);
  trace.soundDecodeUs.set([100, 100, 100, -1, 100, 100]);
  trace.soundMixUs.set([300, 300, 300, -1, 300, 300]);
  trace.soundBytes.set([4_000, 0, 4_000, 0, 4_000, 0]);
  return trace;
}

test('under-runs are counted; times are means of what was worked out, bytes of all of the run', () => {
  expect(soundSummary(traced(), slotUs)).toEqual({
    underRuns: 2,
    firstUnderRun: 2,
    broken: 1,
    slots: 6,
    readMs: 11,
    decodeMs: 0.1,
    mixMs: 0.3,
    bytesPerSecond: 50_000,
  });
  expect(soundSummary(emptyTrace(6), slotUs)).toBeNull();
  expect([hasSound(traced().sound), hasSound(emptyTrace(6).sound), hasSound(undefined)]).toEqual([
    true,
    false,
    false,
  ]);
});

test('the answer says where sound was not ready, and says nothing where it was', () => {
  const plain = {
    slots: 6,
    late: 0,
    dropped: 0,
    wrong: 0,
    achievedRate: 25,
    timesRealTime: null,
    attribution: null,
  };
  const sound = soundSummary(traced(), slotUs)!;
  expect(answerSentence({ ...plain, sound }, 25)).toBe(
    'All 6 slots were shown. Sound was not ready in time at 2 slots. The decoder refused sound of 1 slot.',
  );
  expect(answerSentence({ ...plain, sound: { ...sound, underRuns: 0, broken: 0 } }, 25)).toBe(
    'All 6 slots were shown.',
  );
});

test('a trace packed before sound went along is read as a silent one', () => {
  const trace = traced();
  trace.bytes.set([1, 2, 3, 4, 5, 6]);
  trace.state.fill(1);
  const packed = encodeTrace(trace);
  expect(decodeTrace(packed, 6)).toEqual(trace);
  // The columns of sound stand together in front of the narrow ones, and the last stands at the end.
  const wide = 6 * (10 * 8 + 2 * 4);
  const before = Buffer.concat([packed.subarray(0, wide), packed.subarray(wide + 6 * 16, -6)]);
  expect(packedTraceBytes(6)).toContain(before.length);
  expect(decodeTrace(before, 6)).toEqual({
    ...trace,
    sound: new Uint8Array(6),
    soundReadUs: new Int32Array(6).fill(-1),
    soundDecodeUs: new Int32Array(6).fill(-1),
    soundMixUs: new Int32Array(6).fill(-1),
    soundBytes: new Int32Array(6),
  });
});

describe('sound as a condition', () => {
  const clip = (sound?: string | null) => ({ sound }) as Played;
  const timeline = (speed: number, ...sounds: (string | null)[]) =>
    ({
      timeline: {
        course: { speed, loop: null },
        media: Object.fromEntries(sounds.map((sound, at) => [at, { sound }])),
      },
    }) as unknown as Played;

  test('is what was played; off and without any is the same work', () => {
    expect(soundWords('on', clip('stereo AAC, 48 kHz'))).toBe('stereo AAC, 48 kHz');
    for (const silent of [
      soundWords('off', clip('stereo AAC, 48 kHz')),
      soundWords(undefined, clip()),
      soundWords('on', clip(null)),
    ])
      expect(silent).toBe('none played');
  });

  test('names each kind of a timeline once; at another speed than its own nothing sounds', () => {
    expect(
      soundOf(timeline(1, 'stereo AAC, 48 kHz', null, 'mono PCM 16-bit, 48 kHz', 'stereo AAC, 48 kHz')),
    ).toEqual(['stereo AAC, 48 kHz', 'mono PCM 16-bit, 48 kHz']);
    expect(soundOf(timeline(2, 'stereo AAC, 48 kHz'))).toEqual([]);
  });
});
