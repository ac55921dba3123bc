import { page } from '@/server/page';
import { readTrialPage } from '@/server/trials';
import { TrialView } from '@/ui/trial/TrialView';

export const dynamic = 'force-dynamic';

export async function generateMetadata({ params }: { params: Promise<{ id: string }> }) {
  return { title: `Trial ${(await params).id}` };
}

export default async function TrialPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id),
    (data) => <TrialView key={id} initial={data} />,
  );
}
