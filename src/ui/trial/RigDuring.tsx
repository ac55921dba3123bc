'use client';
import { clockTime, megabytesPerSecond, percent } from '@/core/format';
import type { RigMeanwhile } from '@/core/rig/doubt';
import type { TrialPage } from '@/server/trials/trialPage';
import { Annotate } from './Annotate';
import { TelemetryLegend, TelemetryStrip } from './TelemetryStrip';
import { pulseSentence } from '@/core/sentences/rig';

/** Names of what else was busy, with what each took. */
export function othersWords(load: RigMeanwhile | null): string {
  return (
    (load?.others ?? [])
      .map(
        ({ name, share, diskBytesPerSecond }) =>
          `${name} ${percent(share, 0)} of a core${diskBytesPerSecond >= 1e6 ? `, ${megabytesPerSecond(diskBytesPerSecond)} on disks` : ''}`,
      )
      .join('; ') || 'nothing above 1 %'
  );
}

/** What the rig did while a trial ran that has no ribbon to stand under, and what people note of it. */
export function RigDuring({
  page: {
    trial: { id, load },
    samples,
    annotation,
  },
}: {
  page: TrialPage;
}) {
  const [first, last] = [samples[0], samples.at(-1)];
  const [fromMs, toMs] = [first ? new Date(first.at).getTime() : 0, last ? new Date(last.at).getTime() : 0];
  return (
    <section aria-label="The rig during the run">
      <h2>The rig during the run</h2>
      {samples.length > 1 && (
        <div className="mt-2 border bg-surface">
          <TelemetryStrip
            samples={samples}
            fromMs={fromMs}
            toMs={toMs}
            referenceUs={load?.pulse?.referenceUs ?? null}
          />
          <p className="px-1 text-right text-xs text-muted">{clockTime(toMs - fromMs)} in all</p>
        </div>
      )}
      {samples.length > 1 && <TelemetryLegend />}
      <p className="mt-1 text-sm">
        <span className="text-muted">Others: </span>
        {othersWords(load)}
      </p>
      {load?.pulse && (
        <p className="text-sm">
          <span className="text-muted">Pulse of the machine: </span>
          {pulseSentence(load.pulse)}
        </p>
      )}
      <Annotate key={id} trialId={id} annotation={annotation} />
    </section>
  );
}
