import type { Metadata } from 'next';
import { page } from '@/server/platform/page';
import { readPlanChoices } from '@/server/decide/planChoices';
import { plansOfRig } from '@/server/decide/plans';
import { PlanForm } from '@/ui/plans/PlanForm';
import { PlansView } from '@/ui/plans/PlansView';

export const metadata: Metadata = { title: 'Series and matrices' };
export const dynamic = 'force-dynamic';

/** A clip to begin with, or a clip or timeline as the form names it, and a ready-made question. */
interface PlanQuery {
  readonly clip?: string;
  readonly subject?: string;
  readonly question?: string;
}

export default async function PlansPage({ searchParams }: { searchParams: Promise<PlanQuery> }) {
  const { clip = null, subject = null, question = null } = await searchParams;
  const wanted = subject ?? (clip && `clip:${clip}`);
  const wantedClip = wanted?.startsWith('clip:') ? wanted.slice(5) : null;
  return page(
    async () => Promise.all([readPlanChoices(wantedClip), plansOfRig()]),
    ([choices, plans]) => (
      <div className="flex flex-col gap-5">
        <h1>What should be compared?</h1>
        <PlanForm choices={choices} wanted={wanted} question={question} />
        <PlansView initial={plans} />
      </div>
    ),
  );
}
