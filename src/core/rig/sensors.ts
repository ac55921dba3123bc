import { fixed, percent, quantity } from '../format';
import { median } from '../stats/quantiles';
import { greatest, least } from '../stats/extremes';

/** What a machine's own sensors told at one look; null where the system does not tell. */
export interface SensorLook {
  /** Of the fastest core: one that has little to do may clock lower. */
  readonly clockGigahertz: number | null;
  /** Of the hottest part of the processor. */
  readonly temperatureCelsius: number | null;
  /** Whether the processor slowed itself down for heat or power since the look before. */
  readonly throttled: boolean | null;
}

/** A sensor over a run, in the order of time. */
export interface SensorCourse {
  readonly first: number;
  readonly least: number;
  readonly median: number;
  readonly most: number;
  readonly last: number;
}

/** What sensors told over a run. */
export interface SensorSummary {
  readonly clockGigahertz: SensorCourse | null;
  readonly temperatureCelsius: SensorCourse | null;
  /** Of the looks at which the system told; `firstMs` from the first of them, null where it never was. */
  readonly throttled: { readonly share: number; readonly firstMs: number | null } | null;
}

/** @param looks in order of time, with when they were, ms of any clock @returns null where no sensor told anything */
export function summariseSensors(
  looks: readonly (SensorLook & { readonly atMs: number })[],
): SensorSummary | null {
  const course = (values: readonly (number | null)[]): SensorCourse | null => {
    const told = values.filter((value) => value !== null);
    const [first, last] = [told[0], told.at(-1)];
    return first === undefined || last === undefined
      ? null
      : {
          first,
          least: least(told),
          median: median(told),
          most: greatest(told),
          last,
        };
  };
  const throttles = looks.filter(({ throttled }) => throttled !== null);
  const hit = throttles.filter(({ throttled }) => throttled);
  const [begun, firstHit] = [throttles[0], hit[0]];
  const summary = {
    clockGigahertz: course(looks.map(({ clockGigahertz }) => clockGigahertz)),
    temperatureCelsius: course(looks.map(({ temperatureCelsius }) => temperatureCelsius)),
    throttled: begun
      ? { share: hit.length / throttles.length, firstMs: firstHit ? firstHit.atMs - begun.atMs : null }
      : null,
  };
  return Object.values(summary).some((part) => part !== null) ? summary : null;
}

/** A clock or a temperature that moved less than this over a run stayed as it was: our own choice. */
const steady = { gigahertz: 0.05, celsius: 2 } as const;

function courseWords(
  { first, least, most, last }: SensorCourse,
  unit: string,
  digits: number,
  still: number,
): string {
  const words = (value: number) => quantity(value, unit, digits);
  if (most - least <= still) return words(last);
  const span = `${fixed(least, digits)} to ${words(most)}`;
  return Math.abs(last - first) <= still
    ? `${span}, ${words(last)} at the end as at the start`
    : `${words(first)} at the start, ${words(last)} at the end (${span})`;
}

/** The processor's clock over a run, in words; null where it was not told. */
export function clockWords(sensors: SensorSummary | null | undefined): string | null {
  return sensors?.clockGigahertz ? courseWords(sensors.clockGigahertz, 'GHz', 2, steady.gigahertz) : null;
}

/** The processor's temperature over a run, in words; null where it was not told. */
export function temperatureWords(sensors: SensorSummary | null | undefined): string | null {
  return sensors?.temperatureCelsius
    ? courseWords(sensors.temperatureCelsius, '°C', 0, steady.celsius)
    : null;
}

const percentWords = (share: number) => (share > 0 && share < 0.01 ? 'under 1 %' : percent(share, 0));

/** Whether, for how long and from when on the processor slowed itself down, in words; null where the system does not tell. */
export function throttleWords(sensors: SensorSummary | null | undefined): string | null {
  if (!sensors?.throttled) return null;
  const { share, firstMs } = sensors.throttled;
  return firstMs === null
    ? 'never'
    : `for ${percentWords(share)} of the run, first ${quantity(firstMs / 1000, 's', 0)} after its start`;
}

/** Share of a run's looks at which the processor was throttled from which the run counts as unsteady. Our own choice. */
const unsteadyThrottling = 0.1;

/** Why a run counts as unsteady by what its sensors told, in words; null when it does not. */
export function throttlingOf(sensors: SensorSummary | null | undefined): string | null {
  if (!sensors?.throttled || sensors.throttled.share < unsteadyThrottling) return null;
  const clock = sensors.clockGigahertz;
  const fell = clock && clock.most - clock.least > steady.gigahertz;
  return `the processor slowed itself down for heat or power for ${percentWords(sensors.throttled.share)} of the run${fell ? `, from ${fixed(clock.most, 2)} down to ${quantity(clock.least, 'GHz', 2)}` : ''}`;
}
