import { proofSentence } from '../sentences/tasks';
import { rational } from '../time/rational';
import {
  choiceProblem,
  choiceWords,
  deliveries,
  encoderTold,
  exportCodecIds,
  exportCodecs,
  likelyBytes,
  type ExportChoice,
} from './exportCodecs';
import { proveOutput } from './outputProof';

const review = deliveries[0]!.choice;

test.each(deliveries.map((delivery) => [delivery.name, delivery.choice] as const))(
  '%s can be written as it stands',
  (_, choice) => {
    expect(choiceProblem(choice)).toBeNull();
    expect(encoderTold(choice, rational(25)).encoder).toBe(exportCodecs[choice.codec].encoder);
  },
);

test.each<[Partial<ExportChoice>, keyof ExportChoice, RegExp]>([
  [{ picture: '10-bit 4:4:4' }, 'picture', /H\.264 is written as 8-bit 4:2:0 or/],
  [{ control: 'class' }, 'control', /set by its quality or rate/],
  [{ quality: 60 }, 'quality', /CRF of H\.264 lies from 0 \(best\) to 51/],
  [{ quality: null }, 'quality', /Choose one/],
  [{ control: 'rate', quality: null }, 'megabits', /Give a rate/],
  [{ sound: 'pcm' }, 'sound', /aac or none/],
  [{ codec: 'prores', picture: '10-bit 4:2:2', control: 'class', sound: 'pcm' }, 'rateClass', /Proxy or LT/],
  [
    { codec: 'prores', picture: '10-bit 4:4:4', control: 'class', rateClass: '3', speed: null, sound: 'pcm' },
    'picture',
    /ProRes HQ is written as 10-bit 4:2:2/,
  ],
  [{ codec: 'mjpeg', picture: '8-bit 4:2:2', quality: 3, sound: 'pcm' }, 'speed', /no choice of speed/],
  [
    { codec: 'mjpeg', picture: '8-bit 4:2:2', quality: 3, sound: 'pcm', speed: null, keyDistance: 12 },
    'keyDistance',
    /is a key frame/,
  ],
])('a review copy with %o is refused at %s', (change, field, message) => {
  const problem = choiceProblem({ ...review, ...change });
  expect(problem).toMatchObject({ field });
  expect(problem!.message).toMatch(message);
});

test('an encoder is told size, speed and key frames as it understands them', () => {
  expect(encoderTold(review, rational(30_000, 1001))).toMatchObject({
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    keyDistance: 60,
    options: { preset: 'veryfast', crf: '24' },
  });
  const rate: ExportChoice = { ...review, control: 'rate', megabits: 12.5, quality: null, keyDistance: 1 };
  expect(encoderTold(rate, rational(25))).toMatchObject({
    keyDistance: 1,
    options: { b: '12500000', maxrate: '12500000' },
  });
  expect(encoderTold({ ...rate, codec: 'av1' }, rational(25)).options).not.toHaveProperty('maxrate');
  expect(choiceWords(rate)).toBe('H.264 8-bit 4:2:0, 12.5\u202fMb/s, fast');
  for (const codec of exportCodecIds) expect(exportCodecs[codec].controls.length).toBeGreaterThan(0);
});

test('room is kept for the rate that was asked for, or for the most that a codec may well take', () => {
  const size = { width: 1920, height: 1080, frames: 250, seconds: 10 };
  const rate: ExportChoice = { ...review, control: 'rate', megabits: 80, sound: 'none' };
  expect(likelyBytes(rate, size)).toBeCloseTo(1.1e8 + 1e6, -3);
  const lossless = likelyBytes({ ...review, codec: 'tiff', control: 'lossless', sound: 'none' }, size);
  expect(lossless).toBeGreaterThan(1920 * 1080 * 6 * 250);
});

describe('an output that was decoded whole', () => {
  const asked = { frames: 50, seconds: 2, sound: true };
  const found = { frames: 50, seconds: 2, soundSeconds: 2.02, damaged: 0 };
  const notes = (codes: readonly number[]) => ({
    codes,
    signatures: codes.map((code) => Uint8Array.from({ length: 144 }, (_, at) => (at * 3 + code) % 256)),
  });
  const codes = Array.from({ length: 50 }, (_, at) => at + 7);

  test('is proved where frames, length, numbers and sound are what they should be', () => {
    const proof = proveOutput(asked, found, notes(codes), notes(codes));
    expect(proof.problems).toEqual([]);
    expect(proofSentence(proof)).toBe(
      'Decoded whole: 50 frames, frame i is frame i for 50 of 50 (by the frame code in the picture), 2.02\u202fs of sound.',
    );
  });

  test.each([
    [{ frames: 49 }, codes.slice(0, 49), /49 frames in place of 50/],
    [{ seconds: 1.9 }, codes, /lasts 1\.900\ss in place of 2\.000\ss/],
    [{ soundSeconds: null }, codes, /no sound/],
    [{ soundSeconds: 1.5 }, codes, /sound lasts 1\.500\ss/],
    [{ damaged: 2 }, codes, /2 of its frames cannot be decoded whole/],
    [{}, [...codes.slice(0, 20), 3, ...codes.slice(21)], /1 of its frames are not what .* the first at 20/],
  ] as const)('is refused with %o', (change, made, message) => {
    const proof = proveOutput(asked, { ...found, ...change }, notes(codes), notes(made));
    expect(proofSentence(proof)).toMatch(message);
  });

  test('a sequence of pictures has no time of its own, and what was asked for without sound needs none', () => {
    const silent = { ...found, seconds: null, soundSeconds: null };
    expect(proveOutput({ ...asked, sound: false }, silent, notes(codes), notes(codes)).problems).toEqual([]);
  });
});
