import { decodeKinds } from '@/core/kinds/kinds';
import { page } from '@/server/page';
import { readTrialPage } from '@/server/trialPage';
import { DecodeTrialView } from '@/ui/decode/DecodeTrialView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Decode trial' };

export default async function DecodeTrialRoute({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readTrialPage(id, decodeKinds),
    (data) => <DecodeTrialView key={id} initial={data} />,
  );
}
