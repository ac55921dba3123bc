import { wholePicture, type Effect, type EffectKind, type EffectSettings } from '@/core/timeline/model';

/** One figure of an effect that can be set. */
export interface Control {
  readonly label: string;
  readonly unit: string;
  readonly least: number;
  readonly most: number;
  readonly step: number;
  /** Shown value = stored value x factor. */
  readonly factor: number;
  readonly get: (effect: Effect) => number;
  readonly set: (effect: Effect, value: number) => Effect;
}

/** A control for a number at a path of keys. */
function at(
  label: string,
  path: readonly (string | number)[],
  [least, most, step]: readonly [number, number, number],
  unit = '',
  factor = 1,
): Control {
  const read = (value: unknown): number =>
    Number(path.reduce<unknown>((part, key) => (part as Record<string | number, unknown>)[key], value));
  const write = (value: unknown, keys: readonly (string | number)[], next: number): unknown => {
    const [key, ...rest] = keys;
    if (key === undefined) return next;
    if (Array.isArray(value))
      return value.map((part: unknown, index) => (index === key ? write(part, rest, next) : part));
    return {
      ...(value as object),
      [key]: write((value as Record<string | number, unknown>)[key], rest, next),
    };
  };
  return {
    label,
    unit,
    least,
    most,
    step,
    factor,
    get: read,
    set: (effect, value) => write(effect, path, value) as Effect,
  };
}

const channels = ['red', 'green', 'blue'] as const;
const triple = (name: string, key: string, range: readonly [number, number, number]) =>
  channels.map((channel, index) => at(`${name} ${channel}`, [key, index], range));

/** Controls of each kind of effect, in the order they are shown. */
export const controls: Readonly<Record<EffectKind, readonly Control[]>> = {
  'white-balance': triple('Gain', 'gains', [0, 2, 0.01]),
  'lift-gamma-gain': [
    ...triple('Lift', 'lift', [-0.5, 0.5, 0.005]),
    ...triple('Gamma', 'gamma', [0.2, 3, 0.01]),
    ...triple('Gain', 'gain', [0, 3, 0.01]),
  ],
  saturation: [at('Amount', ['amount'], [0, 2, 0.01], '%', 100)],
  lut: [],
  transform: [
    at('Place from left', ['place', 'x'], [-1, 1, 0.005], '%', 100),
    at('Place from top', ['place', 'y'], [-1, 1, 0.005], '%', 100),
    at('Width', ['place', 'width'], [0.02, 2, 0.005], '%', 100),
    at('Height', ['place', 'height'], [0.02, 2, 0.005], '%', 100),
    at('Crop left', ['crop', 'x'], [0, 0.95, 0.005], '%', 100),
    at('Crop top', ['crop', 'y'], [0, 0.95, 0.005], '%', 100),
    at('Crop width', ['crop', 'width'], [0.05, 1, 0.005], '%', 100),
    at('Crop height', ['crop', 'height'], [0.05, 1, 0.005], '%', 100),
    at('Opacity', ['opacity'], [0, 1, 0.01], '%', 100),
  ],
  title: [
    at('Height', ['size'], [0.02, 0.5, 0.005], '%', 100),
    at('From left', ['x'], [0, 1, 0.005], '%', 100),
    at('From top', ['y'], [0, 1, 0.005], '%', 100),
  ],
  blur: [at('Radius', ['radius'], [0, 0.1, 0.001], '% of height', 100)],
};

/** An effect as it is added: doing something that can be seen, or nothing yet. */
export const freshEffects: Readonly<Record<EffectKind, EffectSettings>> = {
  'white-balance': { kind: 'white-balance', gains: [1, 1, 1] },
  'lift-gamma-gain': { kind: 'lift-gamma-gain', lift: [0, 0, 0], gamma: [1, 1, 1], gain: [1, 1, 1] },
  saturation: { kind: 'saturation', amount: 1 },
  lut: { kind: 'lut', lookId: null, name: '' },
  transform: {
    kind: 'transform',
    crop: wholePicture,
    place: { x: 0.62, y: 0.05, width: 0.33, height: 0.33 },
    opacity: 1,
  },
  title: { kind: 'title', text: 'Tidewrack', size: 0.1, x: 0.5, y: 0.85 },
  blur: { kind: 'blur', radius: 0.01 },
};

let counter = 0;
/** An id that no other thing of the document has: time and a counter. */
export function newId(prefix: string): string {
  return `${prefix}${Date.now().toString(36)}${(counter++).toString(36)}`;
}
