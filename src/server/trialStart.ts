import { isOneOf, trialKinds, type TrialKind } from '@/core/kinds/kinds';
import { RequestError } from './errors';
import { kindServers } from './kinds';
import type { Body } from './kinds/kind';

/** Queues trials of the kind that is named in what was sent. Returns their ids. @throws RequestError with the field at fault */
export async function startTrials(sent: unknown): Promise<readonly string[]> {
  const { kind, ...body } = (typeof sent === 'object' && sent !== null ? sent : {}) as Body;
  if (typeof kind !== 'string' || !isOneOf<TrialKind>(trialKinds, kind as TrialKind))
    throw new RequestError(`Say which kind of trial: ${trialKinds.join(', ')}.`, 400, 'kind');
  return kindServers[kind as TrialKind].start(body);
}
