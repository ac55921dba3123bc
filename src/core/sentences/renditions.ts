import type { RenditionSummary } from '../kinds/renditions';
import type { FrameCheck } from '../rendition/frameCheck';

/** How many clips of a batch came to what. */
export function renditionsSentence({ items, made, present, failed }: RenditionSummary): string {
  const parts = [
    `${made} of ${items} made`,
    present > 0 ? `${present} there already` : '',
    failed > 0 ? `${failed} failed` : '',
  ].filter(Boolean);
  return `${parts.join(', ')}.`;
}

export function checkSentence(check: FrameCheck): string {
  const by = check.method === 'frame code' ? 'by the frame code in the picture' : 'by picture distance';
  if (check.missing > 0) return `${check.missing} frames at the end are missing.`;
  if (check.missing < 0) return `It has ${-check.missing} frames too many.`;
  if (check.wrong > 0)
    return `${check.wrong} of ${check.frames} frames are not their source frame, the first at ${check.firstWrong.join(', ')} (${by}).`;
  if (check.same === 0)
    return `Not proved: the number of frames agrees, but the ${check.frames} pictures look too much alike to tell which is which.`;
  return `Frame i is frame i for ${check.same} of ${check.frames} frames (${by}${check.undecided > 0 ? `; ${check.undecided} look like their neighbours` : ''}).`;
}
