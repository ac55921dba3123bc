import 'server-only';
import type { InferType } from '@/core/edge/strict';
import { saveAnnotation } from '@/db/queries/results';
import { getTrial } from '@/db/queries/trials';
import { RequestError } from '../platform/errors';
import type { annotationInput } from '@/core/asked/library';

/** Notes what a person says of a result, and whether it counts. */
export async function annotate(
  trialId: string,
  { note, excluded }: InferType<typeof annotationInput>,
): Promise<void> {
  if (!(await getTrial(trialId))) throw new RequestError('no-such-result');
  await saveAnnotation(trialId, note, excluded);
}
