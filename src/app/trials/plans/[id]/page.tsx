import { page } from '@/server/platform/page';
import { readPlanPage } from '@/server/decide/plans';
import { PlanView } from '@/ui/plans/PlanView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Series or matrix' };

export default async function PlanPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readPlanPage(id),
    (data) => <PlanView key={id} initial={data} />,
  );
}
