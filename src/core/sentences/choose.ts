import { money } from '../format';
import type { Brief } from '../choose/brief';
import { type SetUp, headroomWords } from '../choose/setups';

/** The answer of a brief in a sentence. */
export function choiceSentence(brief: Brief, setUps: readonly SetUp[], unknownCells: number): string {
  const [first] = setUps;
  const meeting = setUps.filter(({ meets }) => meets === true);
  const rest =
    unknownCells > 0 ? ` ${unknownCells} ${unknownCells === 1 ? 'cell is' : 'cells are'} still unknown.` : '';
  if (!first) return 'There is nothing to choose from yet: no set-up has a form of every camera.';
  if (meeting.length === 0) {
    const open = setUps.filter(({ meets }) => meets === null);
    return open.length > 0
      ? `No set-up is known to meet the brief yet; ${open.length} may once ${stillToKnow(open)}.`
      : `No set-up meets the brief. Nearest: ${first.name} with ${first.form}${first.grade === null ? '' : `, which plays ${first.grade}`}: ${first.fails.join('; ')}.${rest}`;
  }
  const best = meeting[0] as SetUp;
  const price = best.cost === null || best.cost === 0 ? '' : ` for ${money(best.cost, best.currency)}`;
  const room = best.headroom === null ? '' : `, ${headroomWords(best.headroom, best.underMargin)}`;
  return `${best.name} with ${best.form}${price}: ${best.grade} at ${brief.scale} scale${brief.speed === 1 ? '' : ` and ${brief.speed}x`}${room}. ${meeting.length} of ${setUps.length} set-ups meet the brief.${rest}`;
}

/** "the unknown cells are measured and it is told how much is free on the store". */
function stillToKnow(open: readonly SetUp[]): string {
  const cells = new Set(open.flatMap(({ name, unplayed }) => unplayed.map((row) => `${row} ${name}`))).size;
  const told = [...new Set(open.flatMap(({ unknown }) => unknown))];
  return [
    ...(cells > 0 ? [cells === 1 ? 'the unknown cell is measured' : 'the unknown cells are measured'] : []),
    ...(told.length > 0 ? [`it is told ${told.join(', ')}`] : []),
  ].join(' and ');
}
