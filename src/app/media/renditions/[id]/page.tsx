import { page } from '@/server/platform/page';
import { readTrialPage } from '@/server/trials/trialPage';
import { TrialView } from '@/ui/trialPage/TrialView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Renditions' };

export default async function RenditionRoute({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, ['renditions']),
    (data) => <TrialView key={id} initial={data} />,
  );
}
