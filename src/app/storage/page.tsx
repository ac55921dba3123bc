import type { Metadata } from 'next';
import { volumesOfRig } from '@/server/library';
import { page } from '@/server/page';
import { VolumeList } from '@/ui/storage/VolumeList';

export const metadata: Metadata = { title: 'Storage' };
export const dynamic = 'force-dynamic';

export default function StoragePage() {
  return page(volumesOfRig, (volumes) => <VolumeList volumes={volumes} />);
}
