import type { Metadata } from 'next';
import { page } from '@/server/platform/page';
import { readStoragePage } from '@/server/library/storage';
import { VolumeList } from '@/ui/storage/VolumeList';

export const metadata: Metadata = { title: 'Storage' };
export const dynamic = 'force-dynamic';

export default function StoragePage() {
  return page(readStoragePage, (data) => <VolumeList page={data} />);
}
