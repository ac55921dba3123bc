import { fixed, quantity, rounded, times, upTo } from '../format';
import { toNumber, type Rational } from '../time/rational';
import type { DecodeResult } from '../decode/result';
import type { CrossCheck } from '../decode/verdict';

const streamsWord = (count: number) => `${count} ${count === 1 ? 'stream' : 'streams'}`;

/** A decode trial's answer in one sentence. @param device name of the device, where one was asked for */
export function decodeSentence(result: DecodeResult, rate: Rational, device: string | null): string {
  switch (result.kind) {
    case 'decode-rate': {
      const fps = result.all?.framesPerSecond.median ?? result.one?.framesPerSecond.median ?? Number.NaN;
      const one = result.one && result.all ? `, ${rounded(result.one.framesPerSecond.median)} on one` : '';
      return `Decodes ${quantity(rounded(fps), 'frames/s')} on ${result.all ? 'all cores' : 'one core'}${one}: ${times(fps / toNumber(rate), 1)} its own rate of ${upTo(toNumber(rate), 3)}.`;
    }
    case 'decode-support': {
      const [part] = result.parts;
      const { value, low, high } = part?.ratio ?? { value: Number.NaN, low: Number.NaN, high: Number.NaN };
      const found = `${times(value)} the rate of software on one core (${fixed(low, 2)} to ${fixed(high, 2)}, ${part?.pairs.length ?? 0} pairs)`;
      const words = {
        accelerated: 'accelerates this format',
        'not accelerated': 'does not accelerate this format',
        'slower on the device': 'is slower than software',
        undecided: 'is not decided yet: run more pairs',
      };
      return `${device ?? 'The device'} ${words[result.verdict]}: ${found}.`;
    }
    case 'decode-streams':
      return result.missed === null
        ? `Decodes ${streamsWord(result.clean)} without a drop; more were not tried.`
        : result.clean === 0
          ? 'Not even one stream decodes without a drop.'
          : `Decodes ${streamsWord(result.clean)} without a drop; ${result.missed} dropped.`;
  }
}

const checkSentences: Record<CrossCheck, string> = {
  agrees: 'The decoder reports its frames on the device, and the times agree.',
  'silent fallback':
    'Silent fallback: the device was asked for and opened without an error, but the frames came from software.',
  'device frames, no gain':
    'The decoder reports its frames on the device, but they come no faster than from software.',
  'gain without device frames':
    'The frames came from software, yet faster in the passes that asked for the device: something else differed. Repeat on a quiet rig.',
};

export function crossCheckSentence(check: CrossCheck): string {
  return checkSentences[check];
}
