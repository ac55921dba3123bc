import type { TrialKind } from '@/core/kinds/kinds';
import type { NewTrial, TrialRow, TrialStatus } from '@/db/kinds';
import { addTrials, getTrial } from '@/db/queries/trials';
import { RequestError } from './errors';
import { publish } from './events';
import { newId } from './ids';
import { sendJob } from './queue';
import { currentRigId } from './rig';

type Named = Pick<TrialRow, 'id' | 'kind' | 'volumeIds'>;

/** Tells pages where a trial stands. */
export async function tell({ id, kind, volumeIds }: Named, status: TrialStatus): Promise<void> {
  await publish({ type: 'trial-status', trialId: id, kind, volumeIds, status });
}

/** Gives a trial that waits to the runner, and tells pages. */
export async function sendTrial(trial: Named & Pick<TrialRow, 'rigId'>): Promise<void> {
  await sendJob(trial.rigId, { kind: 'trial', trialId: trial.id });
  await tell(trial, 'queued');
}

/** Queues trials on this rig, in their order. Returns their ids. */
export async function queueTrials(wanted: readonly NewTrial[]): Promise<string[]> {
  const rigId = await currentRigId();
  const rows = wanted.map((trial) => ({ volumeIds: [], ...trial, id: newId(), rigId }));
  await addTrials(rows);
  for (const row of rows) await sendTrial(row);
  return rows.map(({ id }) => id);
}

/** Queues a trial on this rig. Returns its id. */
export async function queueTrial(trial: NewTrial): Promise<string> {
  const [id = ''] = await queueTrials([trial]);
  return id;
}

/** A trial with its record. @throws RequestError where there is none, or none of these kinds */
export async function requireTrial<Kind extends TrialKind = TrialKind>(
  id: string,
  kinds: readonly Kind[] | null = null,
): Promise<TrialRow<Kind>> {
  const trial = await getTrial(id, kinds);
  if (!trial) throw new RequestError('no-such-trial');
  return trial;
}
