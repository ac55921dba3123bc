import { isSoftwareAlone } from '@/core/decode/decoding';
import { decodeStreams as summariseDecodeStreams } from '@/core/decode/result';
import { finishedRates } from '@/db/queries/trials';
import { retryWhileAway } from '../shared/retryWhileAway';
import { decodeKind } from './shared/decode';

export const decodeStreams = decodeKind<'decode-streams'>(
  ['all'],
  async ({ rigId, subject, settings }, { steps }) =>
    steps.length === 0
      ? null
      : summariseDecodeStreams(
          steps,
          // The rate is of software: of a device it says nothing.
          isSoftwareAlone(settings.decoding) ? await measuredRate(rigId, subject.contentHash) : null,
          settings.rate,
        ),
);

/** The newest decode rate on all cores of the same content, frames per second. */
async function measuredRate(rigId: string, contentHash: string | null): Promise<number | null> {
  const rates = await retryWhileAway(() => finishedRates(rigId));
  const twin = rates.find(
    ({ subject, summary }) =>
      subject.contentHash !== null && subject.contentHash === contentHash && summary?.all != null,
  );
  return twin?.summary?.all?.framesPerSecond.median ?? null;
}
