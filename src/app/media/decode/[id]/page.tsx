import { decodeKinds } from '@/core/kinds/kinds';
import { page } from '@/server/platform/page';
import { readTrialPage } from '@/server/trials/trialPage';
import { TrialView } from '@/ui/trialPage/TrialView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Decode trial' };

export default async function DecodeTrialRoute({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, decodeKinds),
    (data) => <TrialView key={id} initial={data} />,
  );
}
