import type { Metadata } from 'next';
import { page } from '@/server/page';
import { readPlanChoices } from '@/server/planChoices';
import { plansOfRig } from '@/server/plans';
import { PlanForm } from '@/ui/plans/PlanForm';
import { PlansView } from '@/ui/plans/PlansView';

export const metadata: Metadata = { title: 'Series and matrices' };
export const dynamic = 'force-dynamic';

export default async function PlansPage({ searchParams }: { searchParams: Promise<{ clip?: string }> }) {
  const { clip = null } = await searchParams;
  return page(
    async () => Promise.all([readPlanChoices(clip), plansOfRig()]),
    ([choices, plans]) => (
      <div className="flex flex-col gap-5">
        <h1>What shall be compared?</h1>
        <PlanForm choices={choices} wantedClipId={clip} />
        <PlansView initial={plans} />
      </div>
    ),
  );
}
