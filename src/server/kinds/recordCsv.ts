import type { TrialKind } from '@/core/kinds/kinds';
import { kindServers } from '.';
import type { KindServer } from './kind';
import { requireTrial } from '../platform/trialQueue';

/** What a trial recorded, as CSV. @throws RequestError where there is no such trial */
export async function recordCsv(id: string): Promise<{ csv: string; kind: TrialKind }> {
  const trial = await requireTrial(id);
  const { kind } = trial;
  return { csv: await (kindServers[kind] as KindServer<TrialKind>).csv(trial), kind };
}
