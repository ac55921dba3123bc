import 'server-only';
import { trialInputs } from '@/core/asked/trials';
import type { ISchema } from '@/core/edge/strict';
import { endedBadly } from '@/core/kinds/ends';
import { isOneOf, trialKinds, type TrialKind } from '@/core/kinds/kinds';
import { trialStatuses } from '@/db/kinds';
import { getTrial, updateTrial } from '@/db/queries/trials';
import { RequestError } from '../platform/errors';
import { kindServers } from '.';
import { checked } from '../platform/http';
import type { Body, KindServer } from './kind';

/**
 * Queues trials of the kind that is named in what was sent. With `attemptOf`, the id of a trial that did not complete, they
 * are further attempts at the same. Returns their ids. @throws RequestError with the field at fault
 */
export async function startTrials(sent: unknown): Promise<readonly [string, ...string[]]> {
  const { kind, attemptOf, ...body } = (typeof sent === 'object' && sent !== null ? sent : {}) as Body;
  if (typeof kind !== 'string' || !isOneOf<TrialKind>(trialKinds, kind as TrialKind))
    throw new RequestError('which-kind', { kinds: trialKinds.join(', ') }, 'kind');
  const first = attemptOf === undefined ? null : await firstAttempt(attemptOf, kind as TrialKind);
  const [id, ...more] = await start(kind as TrialKind, body);
  if (id === undefined) throw new RequestError('nothing-to-try');
  const ids = [id, ...more] as const;
  if (first !== null)
    await Promise.all(ids.map((id) => updateTrial(id, trialStatuses, { attemptOf: first })));
  return ids;
}

async function start<Kind extends TrialKind>(kind: Kind, body: Body): Promise<readonly string[]> {
  const server = kindServers[kind] as KindServer<Kind>;
  return server.start(checked(body, trialInputs[kind] as ISchema<object>));
}

/** The first of the attempts that a trial belongs to. */
async function firstAttempt(of: unknown, kind: TrialKind): Promise<string> {
  const before = typeof of === 'string' ? await getTrial(of, [kind]) : null;
  if (!before || !endedBadly(before.status)) throw new RequestError('no-further-attempt', {}, 'attemptOf');
  return before.attemptOf ?? before.id;
}
