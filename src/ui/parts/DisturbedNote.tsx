import { disturbanceOf, type OthersActivity } from '@/core/playback/disturbance';

/** Says why a measurement is in doubt because of what else the rig did; nothing on a quiet rig. */
export function DisturbedNote({ load, decides = true, className = '' }: { load: OthersActivity | null; className?: string; /** whether somebody may decide by the result */ decides?: boolean }) {
  const reason = disturbanceOf(load);
  if (reason === null) return null;
  return <p role="note" className={`border-l-4 border-signal pl-3 text-sm ${className}`}>Disturbed: {reason}, on average while this ran.{decides && ' Repeat it on a quiet rig before deciding anything by it.'}</p>;
}
