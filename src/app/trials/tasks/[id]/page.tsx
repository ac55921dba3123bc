import type { Metadata } from 'next';
import { taskPageKinds } from '@/core/kinds/kinds';
import { page } from '@/server/platform/page';
import { readTrialPage } from '@/server/trials/trialPage';
import { TrialView } from '@/ui/trialPage/TrialView';

export const metadata: Metadata = { title: 'Task' };
export const dynamic = 'force-dynamic';

export default async function TaskPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, taskPageKinds),
    (data) => <TrialView key={id} initial={data} />,
  );
}
