import type { Metadata } from 'next';
import { cameraFormats } from '@/server/library/cameraFormats';
import { page } from '@/server/platform/page';
import { readLadder } from '@/server/library/storage';
import { LadderView } from '@/ui/storage/LadderView';

export const metadata: Metadata = { title: 'Ladder' };
export const dynamic = 'force-dynamic';

export default function LadderPage() {
  return page(
    async () => Promise.all([readLadder(), cameraFormats()]),
    ([data, formats]) => <LadderView page={data} formats={formats} />,
  );
}
