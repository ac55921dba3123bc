import { boolean, identity, object, string } from '../edge/strict';

/** Most characters of a hash list: half a million files. */
export const mostListCharacters = 200e6;

/** A hash list: its text, or where it lies on a volume. */
export const hashListInput = object({
  name: string().max(500).default(''),
  text: string().max(mostListCharacters).nullable().default(null),
  /** With `path` in place of the text. */
  volumeId: identity().nullable().default(null),
  /** Below the volume. */
  path: string().max(4_000).nullable().default(null),
  /** False: it is only read, and nothing is kept. */
  store: boolean().default(true),
}).noUnknown();
