import type { Metadata } from 'next';
import { taskPageKinds } from '@/core/kinds/kinds';
import { page } from '@/server/page';
import { readTrialPage } from '@/server/trialPage';
import { TrialView } from '@/ui/trial/TrialView';

export const metadata: Metadata = { title: 'Task' };
export const dynamic = 'force-dynamic';

export default async function TaskPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, taskPageKinds),
    (data) => <TrialView key={id} initial={data} />,
  );
}
