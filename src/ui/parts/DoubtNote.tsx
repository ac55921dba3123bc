import { doubtOf, type RigMeanwhile } from '@/core/rig/doubt';
import { belowBest, belowBestWords } from '@/core/rig/pulse';

/** Says why a measurement is in doubt because of what else the rig did or how fast it was itself; nothing on a quiet and steady rig. */
export function DoubtNote({
  load,
  decides = true,
  className = '',
}: {
  load: RigMeanwhile | null;
  className?: string;
  /** whether somebody may decide by the result */ decides?: boolean;
}) {
  const doubt = doubtOf(load);
  const times = belowBest(load?.pulse);
  if (doubt === null && times === null) return null;
  return (
    <div role="note" className={`border-l-4 border-signal pl-3 text-sm ${className}`}>
      {doubt && (
        <p>
          {doubt.word[0]?.toUpperCase()}
          {doubt.word.slice(1)}: {doubt.reason}.
          {decides && ' Repeat it on a quiet and steady rig before deciding anything by it.'}
        </p>
      )}
      {times !== null && <p>{belowBestWords(times)}</p>}
    </div>
  );
}
