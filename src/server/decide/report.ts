import 'server-only';
import { getResults } from '@/db/queries/results';
import { listRigs } from '@/db/queries/rigs';
import { readBriefPage } from './briefs';

/** Runs that a report shows with their ribbons, at most. */
const mostRibbons = 24;

/** What a brief's report shows besides its map: the newest run of each measured cell, and the rigs. */
export async function readReport(id: string) {
  const { brief, decision } = await readBriefPage(id);
  const ids = decision.cells.flatMap(({ runs }) => runs[0]?.trialId ?? []).slice(0, mostRibbons);
  const [rows, rigs] = await Promise.all([getResults(ids), listRigs()]);
  const wanted = new Set(brief.document.places.map(({ rigId }) => rigId));
  return {
    brief,
    decision,
    printedAt: new Date().toISOString(),
    evidence: ids.flatMap((trialId) =>
      rows.flatMap(({ found, under }) =>
        found.id === trialId && found.kind === 'playback' && under.kind === 'playback'
          ? [{ ...found, ...under }]
          : [],
      ),
    ),
    rigs: rigs
      .filter((rig) => wanted.has(rig.id))
      .map(({ id: rigId, name, imported, identity }) => ({ id: rigId, name, imported, identity })),
  };
}
export type ReportPage = Awaited<ReturnType<typeof readReport>>;
