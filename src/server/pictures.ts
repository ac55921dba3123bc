import { getRunner } from '@/db/queries/rigs';
import { RequestError } from './errors';
import { requireTrial } from './trials';

/** Passes on the runner's picture stream of a trial; ends when the viewer leaves or the trial ends. */
export async function livePictures(trialId: string, signal: AbortSignal): Promise<Response> {
  const trial = await requireTrial(trialId);
  const runner = await getRunner(trial.rigId);
  if (!runner || (trial.status !== 'running' && trial.status !== 'queued')) throw new RequestError('This trial is not running.', 409);
  const upstream = await fetch(`http://127.0.0.1:${runner.picturePort}/pictures/${trial.id}`, { signal }).catch(() => null);
  if (!upstream?.body) throw new RequestError('The runner does not answer; it is started again by itself.', 503);
  return new Response(upstream.body, { headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' } });
}
