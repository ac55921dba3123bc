import type { Metadata } from 'next';
import { clipsOfRig } from '@/server/library';
import { page } from '@/server/page';
import { ClipTable } from '@/ui/media/ClipTable';

export const metadata: Metadata = { title: 'Media' };
export const dynamic = 'force-dynamic';

export default function MediaPage() {
  return page(clipsOfRig, (clips) => (
    <div className="flex flex-col gap-5">
      <h1>What each clip is</h1>
      <ClipTable clips={clips} />
    </div>
  ));
}
