import type { Metadata } from 'next';
import { firstClip } from '@/server/library/clipList';
import { page } from '@/server/platform/page';
import { timelinesOfRig } from '@/server/timelines/timelines';
import { TimelinesView } from '@/ui/timeline/TimelinesView';

export const metadata: Metadata = { title: 'Timelines' };
export const dynamic = 'force-dynamic';

export default async function TimelinesPage() {
  return page(
    () => Promise.all([timelinesOfRig(), firstClip()]),
    ([timelines, clip]) => <TimelinesView timelines={timelines} firstClip={clip} />,
  );
}
