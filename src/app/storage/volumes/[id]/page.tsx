import type { Metadata } from 'next';
import { page } from '@/server/platform/page';
import { storageKinds } from '@/core/kinds/kinds';
import { readVolumePage } from '@/server/library/storage';
import { readListPart } from '@/server/trials/trialList';
import { VolumeView } from '@/ui/storage/VolumeView';

export const metadata: Metadata = { title: 'Volume' };
export const dynamic = 'force-dynamic';

export default async function VolumePage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => Promise.all([readVolumePage(id), readListPart({ volume: id, kind: storageKinds.join(',') })]),
    ([data, list]) => <VolumeView key={id} initial={data} list={list} />,
  );
}
