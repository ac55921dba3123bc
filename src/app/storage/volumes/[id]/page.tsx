import type { Metadata } from 'next';
import { page } from '@/server/page';
import { readVolumePage } from '@/server/storage';
import { VolumeView } from '@/ui/storage/VolumeView';

export const metadata: Metadata = { title: 'Volume' };
export const dynamic = 'force-dynamic';

export default async function VolumePage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readVolumePage(id),
    (data) => <VolumeView key={id} initial={data} />,
  );
}
