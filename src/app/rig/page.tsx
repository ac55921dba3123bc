import type { Metadata } from 'next';
import { page } from '@/server/platform/page';
import { readRigPage } from '@/server/platform/rig';
import { RigView } from '@/ui/rig/RigView';

export const metadata: Metadata = { title: 'Rig' };
export const dynamic = 'force-dynamic';

export default function RigPage() {
  return page(readRigPage, (data) => <RigView initial={data} />);
}
