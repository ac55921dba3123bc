import type { TrialPage } from '@/server/trials/trialPage';
import { plainName } from '@/core/simulated';

/** Says where a result comes from that was not measured here on real devices; nothing otherwise. */
export function OriginNote({ page: { trial, rig } }: { page: TrialPage }) {
  const { imported } = rig;
  if (!imported && !trial.simulated) return null;
  return (
    <p className="border-l-4 border-signal pl-3 text-sm">
      {imported
        ? `From the rig ${rig.name}, ${imported.simulated ? 'which is simulated: computed by a model, not measured' : `imported as a bundle${trial.simulated ? '; measured with a stand-in: its figures are simulated' : ''}`}.`
        : `Measured on ${plainName(rig.name, false)} with a stand-in: its figures are simulated.`}
    </p>
  );
}
