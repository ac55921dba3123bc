import 'server-only';
import { getRunner } from '@/db/queries/rigs';
import { RequestError } from '../platform/errors';
import { currentRigId } from '../platform/rig';
import { requireTrial } from '../platform/trialQueue';

/** Passes on the runner's picture stream of a trial; ends when the viewer leaves or the trial ends. */
export async function livePictures(trialId: string, signal: AbortSignal): Promise<Response> {
  const trial = await requireTrial(trialId);
  const runner = await getRunner(trial.rigId);
  if (!runner || (trial.status !== 'running' && trial.status !== 'queued'))
    throw new RequestError('trial-not-running');
  const upstream = await fetch(`http://127.0.0.1:${runner.picturePort}/pictures/${trial.id}`, {
    signal,
  }).catch(() => null);
  if (!upstream?.body) throw new RequestError('runner-silent');
  return new Response(upstream.body, {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
  });
}

/** Passes a request on to the runner's viewer of a page. */
export async function viewerOf(
  id: string,
  method: 'GET' | 'POST',
  body: string | null,
  signal: AbortSignal,
): Promise<Response> {
  if (!/^[\w-]{1,64}$/.test(id)) throw new RequestError('no-such-viewer');
  const runner = await runnerOfRig();
  const upstream =
    runner &&
    (await fetch(`http://127.0.0.1:${runner.picturePort}/viewers/${id}`, {
      method,
      body,
      signal,
      headers: { 'content-type': 'application/json' },
    }).catch(() => null));
  if (!upstream?.body) throw new RequestError('runner-silent');
  return new Response(upstream.body, {
    status: upstream.status,
    headers: {
      'content-type': upstream.headers.get('content-type') ?? 'application/octet-stream',
      'cache-control': 'no-store',
    },
  });
}

let known: { runner: Awaited<ReturnType<typeof getRunner>>; atMs: number } | null = null;

/** The runner of this rig; asked for once a second at most, since keys come faster. */
async function runnerOfRig() {
  if (!known || Date.now() - known.atMs > 1_000)
    known = { runner: await getRunner(await currentRigId()), atMs: Date.now() };
  return known.runner;
}
