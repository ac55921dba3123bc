import { page } from '@/server/page';
import { readStorageTrialPage } from '@/server/storage';
import { StorageTrialView } from '@/ui/storage/StorageTrialView';

export const dynamic = 'force-dynamic';

export async function generateMetadata({ params }: { params: Promise<{ id: string }> }) {
  return { title: `Storage trial ${(await params).id}` };
}

export default async function StorageTrialPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readStorageTrialPage(id),
    (data) => <StorageTrialView key={id} initial={data} />,
  );
}
