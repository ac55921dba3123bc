import { isDisturbed } from '@/core/playback/disturbance';
import { percent } from '../format';

/** Says that other processes took so much of the rig that a measurement is in doubt; nothing on a quiet rig. */
export function DisturbedNote({ load, decides = true, className = '' }: { load: { readonly othersMean: number } | null; className?: string; /** whether somebody may decide by the result */ decides?: boolean }) {
  if (!load || !isDisturbed(load)) return null;
  return <p role="note" className={`border-l-4 border-signal pl-3 text-sm ${className}`}>Disturbed: other processes took {percent(load.othersMean, 0)} of the rig on average while this ran.{decides && ' Repeat it on a quiet rig before deciding anything by it.'}</p>;
}
