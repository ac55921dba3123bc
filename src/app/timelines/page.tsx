import type { Metadata } from 'next';
import { firstClip } from '@/server/clipList';
import { page } from '@/server/page';
import { timelinesOfRig } from '@/server/timelines';
import { TimelinesView } from '@/ui/timeline/TimelinesView';

export const metadata: Metadata = { title: 'Timelines' };
export const dynamic = 'force-dynamic';

export default async function TimelinesPage() {
  return page(
    () => Promise.all([timelinesOfRig(), firstClip()]),
    ([timelines, clip]) => <TimelinesView timelines={timelines} firstClip={clip} />,
  );
}
