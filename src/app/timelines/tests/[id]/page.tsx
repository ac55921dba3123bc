import type { Metadata } from 'next';
import { handKinds } from '@/core/kinds/kinds';
import { page } from '@/server/platform/page';
import { readTrialPage } from '@/server/trials/trialPage';
import { TrialView } from '@/ui/trialPage/TrialView';

export const metadata: Metadata = { title: 'Scrub and load' };
export const dynamic = 'force-dynamic';

export default async function TestPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, handKinds),
    (data) => <TrialView key={id} initial={data} />,
  );
}
