import 'server-only';
import type { TrialKind } from '@/core/kinds/kinds';
import { cancelQueued, removeTrial, updateTrial } from '@/db/queries/trials';
import { RequestError } from '../platform/errors';
import { publish } from '../platform/events';
import { currentRigId } from '../platform/rig';
import { kindServers } from '.';
import { requireTrial, sendTrial, tell } from '../platform/trialQueue';

/** Takes a waiting trial out of the queue, or stops a running one; what it measured is kept. */
export async function cancelTrial(id: string): Promise<void> {
  const trial = await requireTrial(id);
  if (
    await updateTrial(id, ['queued', 'paused'], {
      status: 'cancelled',
      outcome: trial.status === 'paused' ? 'Cancelled while it was paused.' : 'Cancelled before it began.',
      endedAt: new Date(),
    })
  ) {
    await tell(trial, 'cancelled');
    return;
  }
  // Asked anew: it may have begun since.
  if ((await requireTrial(id)).status !== 'running') throw new RequestError('trial-ended');
  await publish({ type: 'cancel', trialId: id });
}

/** Takes all waiting trials of some kinds out of the queue; the one that runs goes on. */
export async function cancelWaiting(kinds: readonly TrialKind[]): Promise<{ done: number }> {
  const ids = await cancelQueued(await currentRigId(), kinds);
  for (const id of ids) await tell(await requireTrial(id), 'cancelled');
  return { done: ids.length };
}

/** Pauses a trial that can go on later: one that waits, or a running one at its next boundary. The rig is free meanwhile. */
export async function pauseTrial(id: string): Promise<void> {
  const trial = await requireTrial(id);
  if (!kindServers[trial.kind].resumes) throw new RequestError('not-pausable');
  if (await updateTrial(id, ['queued'], { status: 'paused', outcome: 'Paused before it began.' })) {
    await tell(trial, 'paused');
    return;
  }
  if ((await requireTrial(id)).status !== 'running') throw new RequestError('not-running');
  await publish({ type: 'pause', trialId: id });
}

/** Queues a trial again that stopped before its end: what is whole stays, and it goes on after it. */
export async function resumeTrial(id: string): Promise<void> {
  const trial = await requireTrial(id);
  const how = kindServers[trial.kind].resumes;
  const change = { status: 'queued', outcome: null, detail: null, endedAt: null } as const;
  if (!how || !(await how.hasMore(id)) || !(await updateTrial(id, how.from, change)))
    throw new RequestError('nothing-left');
  await sendTrial(trial);
}

const controls: Readonly<Record<string, (id: string) => Promise<void>>> = {
  cancel: cancelTrial,
  pause: pauseTrial,
  resume: resumeTrial,
};

/** Does to a trial what is asked for by name. @throws RequestError for what cannot be done */
export async function controlTrial(id: string, control: string): Promise<void> {
  const act = Object.hasOwn(controls, control) ? controls[control] : undefined;
  if (!act) throw new RequestError('no-such-control', { controls: Object.keys(controls).join(', ') });
  await act(id);
}

/** Removes an ended trial with all that was recorded and noted of it. */
export async function deleteTrial(id: string): Promise<void> {
  const { status } = await requireTrial(id);
  if (status === 'running' || status === 'queued') throw new RequestError('trial-not-ended');
  await removeTrial(id);
}
