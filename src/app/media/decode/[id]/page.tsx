import { decodeKinds } from '@/core/kinds/kinds';
import { page } from '@/server/page';
import { readTrialPage } from '@/server/trialPage';
import { TrialView } from '@/ui/trial/TrialView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Decode trial' };

export default async function DecodeTrialRoute({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, decodeKinds),
    (data) => <TrialView key={id} initial={data} />,
  );
}
