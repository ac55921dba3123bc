import { page } from '@/server/page';
import { readTrialPage } from '@/server/trialPage';
import { TrialView } from '@/ui/trial/TrialView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Renditions' };

export default async function RenditionRoute({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, ['renditions']),
    (data) => <TrialView key={id} initial={data} />,
  );
}
