import { storageKinds } from '@/core/kinds/kinds';
import { page } from '@/server/platform/page';
import { readTrialPage } from '@/server/trials/trialPage';
import { TrialView } from '@/ui/trialPage/TrialView';

export const dynamic = 'force-dynamic';

export async function generateMetadata({ params }: { params: Promise<{ id: string }> }) {
  return { title: `Storage trial ${(await params).id}` };
}

export default async function StorageTrialPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, storageKinds),
    (data) => <TrialView key={id} initial={data} />,
  );
}
