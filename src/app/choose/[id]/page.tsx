import { readBriefPage } from '@/server/decide/briefs';
import { page } from '@/server/platform/page';
import { currentRigId } from '@/server/platform/rig';
import { BriefView } from '@/ui/choose/BriefView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Decision map' };

export default async function BriefPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    async () => ({ data: await readBriefPage(id), rigId: await currentRigId() }),
    ({ data, rigId }) => <BriefView key={id} initial={data} rigId={rigId} />,
  );
}
