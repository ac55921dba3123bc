import { readClipPage } from '@/server/library/media';
import { page } from '@/server/platform/page';
import { readListPart } from '@/server/trials/trialList';
import { ClipView } from '@/ui/media/ClipView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Clip' };

export default async function ClipPageRoute({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => Promise.all([readClipPage(id), readListPart({ clip: id })]),
    ([data, list]) => <ClipView key={id} initial={data} list={list} />,
  );
}
