import type { Metadata } from 'next';
import { leastThatMatters } from '@/core/compare/compare';
import { readCompareChoices } from '@/server/decide/compareChoices';
import { compareSides } from '@/server/decide/comparisons';
import { RequestError } from '@/server/platform/errors';
import { page } from '@/server/platform/page';
import { ChooseSides } from '@/ui/compare/ChooseSides';
import { CompareView } from '@/ui/compare/CompareView';

export const metadata: Metadata = { title: 'Compare' };
export const dynamic = 'force-dynamic';

export default async function ComparePage({
  searchParams,
}: {
  searchParams: Promise<{ sides?: string; asked?: string; test?: string; least?: string }>;
}) {
  const { sides = '', asked = null, test = null, least } = await searchParams;
  const matters = shareOf(least);
  const tokens = sides.split(',').filter(Boolean);
  return page(
    async () => {
      const refusal = { message: null as string | null };
      const comparison =
        tokens.length === 0
          ? null
          : await compareSides(tokens, asked, test, matters).catch((error: unknown) => {
              if (!(error instanceof RequestError)) throw error;
              refusal.message = error.message;
              return null;
            });
      const shown =
        comparison && comparison.sides.length > 0 && comparison.rows.length > 0 ? comparison : null;
      return {
        comparison: shown,
        message:
          refusal.message ??
          (comparison && !shown
            ? 'None of these has a figure yet. Wait until one of their runs has ended, or choose others.'
            : null),
        choices: shown ? [] : await readCompareChoices(),
      };
    },
    ({ comparison, message, choices }) =>
      comparison ? (
        <CompareView key={[sides, asked, test, matters].join()} comparison={comparison} tokens={tokens} />
      ) : (
        <div className="flex flex-col gap-5">
          <h1>Which of them does better?</h1>
          {message && (
            <p role="alert" className="border-l-4 border-signal pl-3 text-sm">
              {message}
            </p>
          )}
          <p className="max-w-2xl text-sm text-muted">
            Choose at least two. The first is the baseline; every difference in their conditions is listed.
          </p>
          <ChooseSides choices={choices} />
        </div>
      ),
  );
}

/** A percentage of an address as a share; what it begins with where it is none. */
function shareOf(percent: string | undefined): number {
  const share = Number(percent) / 100;
  return percent !== undefined && share >= 0 && share <= 1 ? share : leastThatMatters;
}
