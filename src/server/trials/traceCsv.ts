import { csvOf, type Cell } from '@/core/formats/csv';
import { playedKinds } from '@/core/kinds/kinds';
import { marksOf } from '@/core/media/faults';
import { causesOf } from '@/core/playback/attribute';
import { soundStates } from '@/core/playback/sound';
import { causes, slotStates } from '@/core/playback/slots';
import { slotTimecode } from '@/core/timeline/subject';
import { getCharges } from '@/db/queries/trials';
import { loadTrace } from './traces';
import { requireTrial } from '../platform/trialQueue';

const timeColumns = [
  'readStart',
  'readEnd',
  'decodeStart',
  'decodeEnd',
  'processStart',
  'processEnd',
  'wokeAt',
  'presentedAt',
] as const;

const soundColumns = [
  ['sound_read_us', 'soundReadUs'],
  ['sound_decode_us', 'soundDecodeUs'],
  ['sound_mix_us', 'soundMixUs'],
  ['sound_bytes', 'soundBytes'],
] as const;

/** A trial's trace as CSV: one line per slot, times in µs from t0, empty where a stage never ran. */
export async function traceCsv(id: string): Promise<string> {
  const trial = await requireTrial(id, playedKinds);
  const [trace, charges] = await Promise.all([loadTrace(id), getCharges(id)]);
  const doubtful = marksOf(trial.conditions?.run?.faults?.doubtful, trace.length);
  const timecodeAt = slotTimecode(trial.subject);
  const lines: Cell[][] = [
    [
      'slot',
      'timecode',
      'state',
      'cause',
      'given_up_at',
      'shown_frame',
      'bytes',
      ...timeColumns.map((name) => `${name}_us`),
      'read_depth',
      'decoded_depth',
      'ready_depth',
      'doubtful',
      'sound',
      ...soundColumns.map(([name]) => name),
    ],
  ];
  for (let slot = 0; slot < trace.length; slot++) {
    const skipped = trace.skipped[slot] ?? 0;
    lines.push([
      slot,
      timecodeAt(slot),
      slotStates[trace.state[slot] ?? 0],
      causesOf(charges?.[slot] ?? 0).join('+'),
      skipped === 0 ? '' : causes[skipped - 1],
      trace.shownFrame[slot],
      trace.bytes[slot],
      ...timeColumns.map((name) => {
        const value = trace[name][slot] ?? Number.NaN;
        return Number.isNaN(value) ? '' : value.toFixed(1);
      }),
      trace.readDepth[slot],
      trace.decodedDepth[slot],
      trace.readyDepth[slot],
      doubtful[slot],
      soundStates[trace.sound[slot] ?? 0],
      ...soundColumns.map(([, column]) => ((trace[column][slot] as number) < 0 ? '' : trace[column][slot])),
    ]);
  }
  return csvOf(lines);
}
