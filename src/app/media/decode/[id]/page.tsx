import { readDecodeTrialPage } from '@/server/decode';
import { page } from '@/server/page';
import { DecodeTrialView } from '@/ui/decode/DecodeTrialView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Decode trial' };

export default async function DecodeTrialRoute({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readDecodeTrialPage(id),
    (data) => <DecodeTrialView key={id} initial={data} />,
  );
}
