import type { Metadata } from 'next';
import { cameraFormats } from '@/server/cameraFormats';
import { page } from '@/server/page';
import { readLadder } from '@/server/storage';
import { LadderView } from '@/ui/storage/LadderView';

export const metadata: Metadata = { title: 'Ladder' };
export const dynamic = 'force-dynamic';

export default function LadderPage() {
  return page(
    async () => Promise.all([readLadder(), cameraFormats()]),
    ([data, formats]) => <LadderView page={data} formats={formats} />,
  );
}
