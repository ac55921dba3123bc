import { playbackScales } from '../playback/slots';
import { mostSlots } from '../timeline/model';
import { timelineSchema } from '../timeline/schema';
import { boolean, byWord, number, object, string, word, type InferType } from '../edge/strict';

/** What a page sends its viewer: a command, or a document to look at. */
const slot = number().integer().min(-1).max(mostSlots).required();
const scale = string().oneOf(playbackScales, 'Choose full, half or quarter.').required();
/** By their `type`. */
export const viewerRequest = byWord('type', {
  show: object({ type: word('show'), slot, jump: number().integer().min(0).required() }),
  play: object({
    type: word('play'),
    run: number().integer().min(0).required(),
    from: slot,
    speed: number().min(-64).max(64).required(),
    loop: object({ from: slot, to: slot }).nullable().defined(),
  }),
  stop: object({ type: word('stop') }),
  scale: object({ type: word('scale'), scale }),
  document: object({
    type: word('document'),
    document: timelineSchema,
    read: string()
      .oneOf(['originals', 'proxies'] as const)
      .required(),
    scale,
    cold: boolean().required(),
  }),
});
export type ViewerRequest = InferType<typeof viewerRequest>;
