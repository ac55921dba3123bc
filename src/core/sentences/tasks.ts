import { count, duration, fixed, milliseconds, percent, quantity, times, upTo } from '../format';
import type { TaskSummary } from '../kinds/shared/task';
import type { AnalysisFound } from '../tasks/analysis';
import { type HeldBack, stageNouns } from '../tasks/heldBack';
import { type OpeningSummary, openingNouns } from '../tasks/opening';
import type { OutputProof } from '../tasks/outputProof';
import type { SoakSummary } from '../tasks/soak';
import { timesLength } from '../tasks/taskSummary';

/** What a task took and why, in a sentence or two. @param verb what it did, as "Exported" @param of what it made or worked through */
export function taskSentence(verb: string, summary: TaskSummary, of = 'media'): string {
  const factor = timesLength(summary);
  const took = `${verb} ${duration(summary.mediaSeconds * 1000)} of ${of} in ${duration(summary.elapsedMs)}`;
  const ofLength =
    factor === null ? '' : `: ${fixed(factor, 2)} times its length (${times(1 / factor)} real time)`;
  return `${took}${ofLength}.${summary.held ? ` ${heldBackSentence(summary.held)}` : ''}`;
}

/** "143 of 200 points were followed to the end." Empty where nothing was found. */
export function foundSentence(found: AnalysisFound | null): string {
  if (!found) return '';
  if (found.points)
    return `${found.points.kept} of ${found.points.found} points were followed to the end${found.pixelsPerFrame === null ? '' : `, ${fixed(found.pixelsPerFrame, 1)} pixels a picture`}.`;
  return found.leftOut === null ? '' : `${percent(found.leftOut)} of the picture was left out.`;
}

/** What the proof says, in a sentence. */
export function proofSentence({ frames, check, problems, soundSeconds }: OutputProof): string {
  if (problems.length > 0) return `The output is not what it should be: ${problems.join('; ')}.`;
  const told =
    check.same === 0
      ? `the ${frames} pictures look too much alike to tell which is which`
      : `frame i is frame i for ${check.same} of ${frames} (${check.method === 'frame code' ? 'by the frame code in the picture' : 'by picture distance'}${check.undecided > 0 ? `; ${check.undecided} look like their neighbours` : ''})`;
  return `Decoded whole: ${frames} frames, ${told}${soundSeconds === null ? '' : `, ${quantity(soundSeconds, 's', 2)} of sound`}.`;
}

/** What opening took and why, in a sentence or two. */
export function openingSentence({
  clips,
  problems,
  firstMs,
  picturesMs,
  soundMs,
  elapsedMs,
  hold,
  alike,
  twice,
  each,
}: Pick<
  OpeningSummary,
  | 'each'
  | 'clips'
  | 'problems'
  | 'firstMs'
  | 'picturesMs'
  | 'soundMs'
  | 'elapsedMs'
  | 'hold'
  | 'alike'
  | 'twice'
>): string {
  const after = [
    firstMs === null ? null : `first picture after ${duration(firstMs)}`,
    picturesMs === null ? null : `all thumbnails after ${duration(picturesMs)}`,
    soundMs === null ? 'no sound' : `all sound peaks after ${duration(soundMs)}`,
  ].filter((one) => one !== null);
  const clipsText = clips === 1 ? '1 clip' : `${count(clips)} clips`;
  const others = alike.map((one) => openingNouns[one].doing.toLowerCase()).join(' and ');
  const held =
    hold === null
      ? 'Nothing held it back by itself.'
      : `${openingNouns[hold].doing} held it back${others === '' ? '' : `, ${others} nearly as much`}: ${openingNouns[hold].by} would have saved ${percent(twice[hold], 0)}.`;
  const bad =
    problems === 0
      ? ''
      : ` Of ${problems === 1 ? '1 clip' : `${count(problems)} clips`} not all could be shown.`;
  if (each) {
    const { median, worst } = each;
    return `Opened ${clipsText}, each to its first picture: ${duration(median.pictureMs)} in the middle (first byte ${milliseconds(median.firstByteMs)}, index ${milliseconds(median.indexMs)}), ${duration(worst.pictureMs)} at worst. ${held}${bad}`;
  }
  return `Opened ${clipsText} in ${duration(elapsedMs)}: ${after.join(', ')}. ${held}${bad}`;
}

/** What held it back, in a sentence. */
export function heldBackSentence({
  stage,
  alike,
  twice,
}: Pick<HeldBack, 'stage' | 'alike' | 'twice'>): string {
  if (stage === null) return 'No stage held it back by itself.';
  const { doing, by } = stageNouns[stage];
  const others = alike.map((other) => stageNouns[other].doing.toLowerCase()).join(' and ');
  return `${doing} held it back${others === '' ? '' : `, ${others} nearly as much`}: ${by} would have saved ${percent(twice[stage], 0)}.`;
}

/** Points that lie within such a factor of each other are of an even pace. */
const even = 1.5;

/** What a soak found, in a sentence or two. */
export function soakSentence(summary: SoakSummary): string {
  const { seconds, done, frames, dropped, unproved, needed } = summary;
  const times = done === 1 ? 'once' : `${count(done)} times`;
  const lost = dropped === 0 ? 'none' : count(dropped);
  const drops = needed === null ? '' : `: ${lost} of ${count(frames)} slots dropped`;
  const bad =
    unproved === 0
      ? ''
      : ` ${unproved === 1 ? '1 output was' : `${count(unproved)} outputs were`} not as asked for.`;
  return `${needed === null ? 'Made' : 'Played'} ${times} in ${duration(seconds * 1000)}${drops}. ${paceWords(summary)}${bad}`;
}

function paceWords({ levels, atFirst, sustained, needed, spread: { p5, p95 } }: SoakSummary): string {
  const rate = (value: number) => quantity(value, 'frames/s', 1);
  const need = needed === null ? '' : ` where ${upTo(needed, 3)} are needed`;
  if (levels.length === 1)
    return p95 <= p5 * even
      ? `It held its pace: ${rate(sustained)}${need}, from first to last.`
      : `Uneven, without a lasting change: ${fixed(p5, 1)} to ${rate(p95)}, ${fixed(sustained, 1)} in the median${need}.`;
  const change = sustained / atFirst - 1;
  const share = `${percent(Math.abs(change), 0)} ${change < 0 ? 'less' : 'more'}`;
  const between = levels.length > 2 ? `, by ${levels.length - 1} changes` : '';
  return `Sustained ${rate(sustained)}${need}: ${share} than the ${rate(atFirst)} at first${between}, from ${duration((levels.at(-1)?.fromS ?? 0) * 1000)} on.`;
}
