import { csvAnswer, route } from '@/server/platform/http';
import { readTrialList, trialListCsv, type ListQuery } from '@/server/trials/trialList';
import { startTrials } from '@/server/kinds/trialStart';

export const dynamic = 'force-dynamic';

/** A page of trials of all kinds, newest first; with `format=csv` all of them as CSV. What narrows it stands in the address. */
export const GET = route('GET /api/trials', async ({ query }) => {
  const { format, ...narrowed } = Object.fromEntries(query) as ListQuery & { format?: string };
  return format === 'csv'
    ? csvAnswer(await trialListCsv(narrowed), 'navvy-trials.csv')
    : readTrialList(narrowed);
});

/** Queues trials of the kind that the body names. Answers with their ids, the first by itself as well. */
export const POST = route('POST /api/trials', async ({ body }) => {
  const ids = await startTrials(body);
  return { id: ids[0], ids };
});
