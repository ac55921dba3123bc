import { count, fixed, quantity, times, upTo } from '../format';
import { doubtfulNote } from '../media/faults';
import { causeBit, causesOf, chargesByDrops } from '../playback/attribute';
import type { Cure, Stall } from '../playback/cures';
import type { Cause, WorkingStage } from '../playback/slots';
import type { PlaybackSummary } from '../playback/summary';

const subjects: Record<Cause, string> = {
  read: 'the volume',
  decode: 'decoding',
  process: 'processing',
  present: 'the presenter',
  media: 'the media',
};

function slots(number: number): string {
  return `${count(number)} ${number === 1 ? 'slot' : 'slots'}`;
}

/** A charge in words: "decoding", "the volume and processing together". */
export function chargeLabel(charge: number): string {
  const names = causesOf(charge).map((stage) => subjects[stage]);
  return names.length > 1
    ? `${names.slice(0, -1).join(', ')} and ${names.at(-1)} together`
    : (names[0] ?? 'nothing');
}

/** Why slots dropped, in words: "decoding was late", "the volume and processing together were late", "the media could not be decoded". */
export function causeLabel(charge: number): string {
  if (charge === causeBit.media) return `${chargeLabel(charge)} could not be decoded`;
  return `${chargeLabel(charge)} ${causesOf(charge).length > 1 ? 'were' : 'was'} late`;
}

/** What of the drops the rig itself made, in words: others that had the cores, or a machine that had become slower. */
function rigWords(cures: readonly Cure[]): string {
  const reasons = cures.flatMap((cure) =>
    cure.kind === 'quiet'
      ? [
          `${cure.removes === cure.of ? 'all' : count(cure.removes)} of them because ${cure.reason === 'others' ? 'others had the cores' : 'the machine itself had become slower'}`,
        ]
      : [],
  );
  return reasons.map((reason) => `, ${reason}`).join('');
}

/** What of the sound was not there in time, or not whole; nothing where all of it was. */
function soundNote(sound: PlaybackSummary['sound']): string {
  const { underRuns = 0, broken = 0 } = sound ?? {};
  const late = underRuns > 0 ? ` Sound was not ready in time at ${slots(underRuns)}.` : '';
  return broken > 0 ? `${late} The decoder refused sound of ${slots(broken)}.` : late;
}

/** The answer of a playback trial in a sentence. */
export function answerSentence(
  summary: Pick<
    PlaybackSummary,
    | 'slots'
    | 'late'
    | 'dropped'
    | 'wrong'
    | 'doubtful'
    | 'doubtfulWrong'
    | 'achievedRate'
    | 'timesRealTime'
    | 'sound'
  > & { readonly cures?: readonly Cure[] } & {
    readonly attribution: { readonly countByCharge: Readonly<Record<number, number>> | null } | null;
  },
  rate: number,
): string {
  const { doubtfulWrong = 0 } = summary;
  const doubtful = doubtfulNote(summary.doubtful ?? 0, doubtfulWrong) + soundNote(summary.sound);
  if (summary.timesRealTime !== null) {
    const undecoded =
      summary.dropped > 0
        ? `; ${count(summary.dropped)} of ${slots(summary.slots)} could not be decoded`
        : '';
    return `${summary.dropped > 0 ? 'Every frame that decodes' : 'Every frame'} was shown at ${fixed(summary.achievedRate, 1)} frames per second: ${times(summary.timesRealTime)} the clip's ${upTo(rate, 3)}${undecoded}.${doubtful}`;
  }
  const wrongElse = summary.wrong - doubtfulWrong;
  const wrong = wrongElse > 0 ? ` ${slots(wrongElse)} showed a wrong frame.` : '';
  if (summary.dropped === 0)
    return `All ${slots(summary.slots)} were shown${summary.late > 0 ? `, ${count(summary.late)} of them late` : ''}.${wrong}${doubtful}`;
  const blame = chargesByDrops(summary.attribution?.countByCharge ?? {})
    .map(({ charge, drops }) => `${causeLabel(charge)} for ${count(drops)}`)
    .join(', ');
  return `${count(summary.dropped)} of ${slots(summary.slots)} dropped${rigWords(summary.cures ?? [])}; ${blame}.${wrong}${doubtful}`;
}

/** A factor to three figures, rounded up so that it still suffices: 1.84x, 12.7x. */
function enough(factor: number): string {
  const step = factor < 10 ? 100 : 10;
  return times(Math.ceil(factor * step) / step, factor < 10 ? 2 : 1);
}

const stageWords: Record<WorkingStage, string> = {
  read: 'reading',
  decode: 'decoding',
  process: 'processing',
};

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** How many times without an answer are told with their places. */
const stallsTold = 3;

function stallWords(stalls: readonly Stall[], placeOf: (slot: number) => string): string {
  const seconds = (us: number) => quantity(us / 1e6, 's', us < 1e6 ? 2 : 1);
  const told = stalls
    .slice(0, stallsTold)
    .map(({ slot, us }) => `for ${seconds(us)} at ${placeOf(slot)}`)
    .join(', ');
  const rest = stalls.length - stallsTold;
  return `The volume did not answer ${told}${rest > 0 ? ` and ${rest} more ${rest === 1 ? 'time' : 'times'}` : ''}`;
}

/**
 * A cure as a sentence.
 * @param placeOf a slot's timecode; without it slots are told by their number
 */
export function cureSentence(
  cure: Cure,
  placeOf: (slot: number) => string = (slot) => `slot ${slot}`,
): string {
  const effect =
    cure.removes === cure.of ? `all ${count(cure.of)}` : `${count(cure.removes)} of ${count(cure.of)}`;
  const besides = cure.besides === true;
  const [on, a] = besides ? ['On a quiet and steady rig ', 'a'] : ['', 'A'];
  const verb = `would have removed ${besides ? `another ${count(cure.removes)} of ${count(cure.of)}` : effect} ${cure.of === 1 ? 'drop' : 'drops'}${cure.grade ? ` (${cure.grade})` : ''}`;
  switch (cure.kind) {
    case 'scale':
      return `${cure.scale === 'half' ? 'Half' : 'Quarter'} scale ${verb}.`;
    case 'volume':
      return `${on}${a} volume that sustains ${quantity(cure.bytesPerSecond / 1e6, 'MB/s', 1)} ${verb}.`;
    case 'processor':
      return `${on}${a} processor that decodes and processes ${enough(cure.factor)} as fast ${verb}.`;
    case 'faster':
      return `${on}${on ? stageWords[cure.stage] : capital(stageWords[cure.stage])} ${enough(cure.factor)} as fast ${verb}.`;
    case 'proxies':
      return `${cure.clipId === null ? 'Its proxies' : 'Its proxy'} ${verb}.`;
    case 'streams':
      return `${cure.streams} ${cure.streams === 1 ? 'stream' : 'streams'}, not ${cure.most} (its lower ${cure.streams === 1 ? 'track' : 'tracks'}), ${verb}.`;
    case 'device':
      return `${on}${on ? 'decoding' : 'Decoding'} on ${cure.name}, measured to be ${times(cure.times)} as fast, ${verb}.`;
    case 'quiet':
      return cure.reason === 'others'
        ? `Other processes had the cores for part of the time; a quiet rig ${verb}.`
        : `The machine itself had become slower; at its pace from before the run it ${verb}.`;
    case 'stalls':
      return `${stallWords(cure.stalls, placeOf)}; answers as at other times ${verb}.`;
  }
}
