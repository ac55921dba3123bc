import { doubtOf } from './doubt';
import {
  clockWords,
  summariseSensors,
  temperatureWords,
  throttleWords,
  throttlingOf,
  type SensorLook,
} from './sensors';

const look = (change: Partial<SensorLook>, at: number) => ({
  clockGigahertz: null,
  temperatureCelsius: null,
  throttled: null,
  ...change,
  atMs: 50_000 + at * 500,
});

/** A machine that heats up and from half of the run on clocks down. */
const hot = summariseSensors(
  Array.from({ length: 40 }, (_, at) =>
    look(
      {
        clockGigahertz: at < 20 ? 3.4 : 2.1,
        temperatureCelsius: Math.min(97, 55 + 3 * at),
        throttled: at >= 20 && at % 2 === 0,
      },
      at,
    ),
  ),
);

test('clock, temperature and throttling over a run are told with their beginning and their end', () => {
  expect(hot?.clockGigahertz).toMatchObject({ first: 3.4, least: 2.1, most: 3.4, last: 2.1 });
  expect(clockWords(hot)).toBe(
    '3.40\u202fGHz at the start, 2.10\u202fGHz at the end (2.10 to 3.40\u202fGHz)',
  );
  expect(temperatureWords(hot)).toBe('55\u202f°C at the start, 97\u202f°C at the end (55 to 97\u202f°C)');
  expect(throttleWords(hot)).toBe('for 25\u202f% of the run, first 10\u202fs after its start');
});

test('a machine that throttles makes its run unsteady; one that does for a moment does not', () => {
  expect(throttlingOf(hot)).toBe(
    'the processor slowed itself down for heat or power for 25\u202f% of the run, from 3.40 down to 2.10\u202fGHz',
  );
  expect(doubtOf({ othersMean: 0, sensors: hot })).toMatchObject({ word: 'unsteady' });
  const moment = summariseSensors(Array.from({ length: 40 }, (_, at) => look({ throttled: at === 30 }, at)));
  expect(throttlingOf(moment)).toBeNull();
  expect(doubtOf({ othersMean: 0, sensors: moment })).toBeNull();
  expect(throttleWords(moment)).toBe('for 3\u202f% of the run, first 15\u202fs after its start');
});

test('a steady sensor is one figure; what a system does not tell stays untold', () => {
  const steady = summariseSensors([2.7, 2.71, 2.7].map((clockGigahertz, at) => look({ clockGigahertz }, at)));
  expect(clockWords(steady)).toBe('2.70\u202fGHz');
  expect(temperatureWords(steady)).toBeNull();
  expect(throttleWords(steady)).toBeNull();
  const around = summariseSensors(
    [60, 71, 61].map((temperatureCelsius, at) => look({ temperatureCelsius }, at)),
  );
  expect(temperatureWords(around)).toBe('60 to 71\u202f°C, 61\u202f°C at the end as at the start');
  expect(throttleWords(summariseSensors([look({ throttled: false }, 0)]))).toBe('never');
  expect(summariseSensors([look({}, 0), look({}, 1)])).toBeNull();
  expect(summariseSensors([])).toBeNull();
});
