import {
  askedAgain,
  decodingWords,
  drewByDevice,
  fellBack,
  isSoftwareAlone,
  reorderDepth,
  ShareOut,
  type DecodedStream,
  type DeviceUse,
} from './decoding';

const use = (deviceId: string, share = 1, simulated = deviceId !== 'software'): DeviceUse => ({
  deviceId,
  name: deviceId,
  simulated,
  share,
});
const stream = (device: number, frames: number, onDevice: number): DecodedStream => ({
  item: 'a',
  track: 0,
  clip: 'c',
  device,
  decoder: 'd',
  frames,
  onDevice,
});

describe('sharing streams out', () => {
  test('goes round by the shares, the first of equals first', () => {
    const shares = new ShareOut([2, 1]);
    expect(Array.from({ length: 6 }, () => shares.next(1))).toEqual([0, 1, 0, 0, 1, 0]);
  });

  test('weighs streams by their load: a large one counts as the small ones that it stands for', () => {
    const shares = new ShareOut([1, 1]);
    expect([4, 1, 1, 1, 1, 1].map((load) => shares.next(load))).toEqual([0, 1, 1, 1, 1, 0]);
  });

  test('every device stays within one stream of its share, however many there are', () => {
    const wanted = [5, 3, 1];
    const shares = new ShareOut(wanted);
    const got = [0, 0, 0];
    for (let streams = 1; streams <= 200; streams++) {
      const at = shares.next(1);
      got[at] = (got[at] ?? 0) + 1;
      got.forEach((count, place) =>
        expect(Math.abs(count - (streams * (wanted[place] ?? 0)) / 9)).toBeLessThanOrEqual(1),
      );
    }
  });

  test('without a device there is nothing to draw', () => {
    expect(new ShareOut([]).next(1)).toBe(-1);
  });
});

test('decoding in words says what is made up, and the shares of several', () => {
  expect(decodingWords(undefined)).toBe('software');
  expect(decodingWords([use('spring')])).toBe('spring (simulated)');
  expect(decodingWords([use('spring', 2), use('software')])).toBe('spring (simulated) 2 : software 1');
  expect(isSoftwareAlone([use('software', 3)])).toBe(true);
  expect(isSoftwareAlone([use('software'), use('spring')])).toBe(false);
});

test('what each device drew is told with the streams that fell back to software', () => {
  const streams = [stream(0, 100, 100), stream(1, 50, 0), stream(0, 50, 20)];
  const [spring, software] = drewByDevice([use('spring'), use('software')], streams);
  expect(spring).toMatchObject({ streams: 2, frames: 150, onDevice: 120, part: 0.75 });
  expect(spring?.fallen).toEqual([streams[2]]);
  // What was to be decoded in software has not fallen back to it.
  expect(software).toMatchObject({ streams: 1, frames: 50, fallen: [] });
  expect(fellBack(stream(0, 10, 10), use('spring'))).toBe(false);
});

test('the reorder depth is what a decoder has to wait for', () => {
  expect(reorderDepth([0, 1, 2, 3])).toBe(0);
  expect(reorderDepth([0, 2, 1, 4, 3])).toBe(1);
  // A pyramid: 4 comes before 2, and 2 before 1.
  expect(reorderDepth([0, 4, 2, 1, 3, 8, 6, 5, 7])).toBe(2);
});

test('that a device scales its pictures is a condition, and is asked for again', () => {
  const spring = { deviceId: 'stand-in-spring', name: 'Spring', simulated: true, share: 1 };
  expect(decodingWords([{ ...spring, frames: 'scaled' }])).toBe('Spring (simulated), pictures scaled there');
  expect(decodingWords([{ ...spring, frames: 'scaled' }])).not.toBe(decodingWords([spring]));
  expect(askedAgain([{ ...spring, frames: 'scaled' }])).toEqual([
    { deviceId: 'stand-in-spring', share: 1, frames: 'scaled' },
  ]);
});
