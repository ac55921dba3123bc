import { Readable } from 'node:stream';
import { answer, readJson } from '@/server/http';
import { readTrialList, trialListCsv, type ListQuery } from '@/server/trialList';
import { startTrials } from '@/server/trialStart';

export const dynamic = 'force-dynamic';

/** A page of trials of all kinds, newest first; with `format=csv` all of them as CSV. What narrows it stands in the address. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const { format, ...query } = Object.fromEntries(new URL(request.url).searchParams) as ListQuery & {
      format?: string;
    };
    if (format !== 'csv') return readTrialList(query);
    const lines = await trialListCsv(query);
    return new Response(Readable.toWeb(Readable.from(lines, { objectMode: false })) as ReadableStream, {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': 'attachment; filename="navvy-trials.csv"',
      },
    });
  });
}

/** Queues trials of the kind that the body names. Answers with their ids, the first by itself as well. */
export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    const ids = await startTrials(await readJson(request));
    return { id: ids[0] ?? null, ids };
  });
}
