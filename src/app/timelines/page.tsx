import type { Metadata } from 'next';
import { clipsOfRig } from '@/server/media';
import { page } from '@/server/page';
import { timelinesOfRig } from '@/server/timelines';
import { TimelinesView } from '@/ui/timeline/TimelinesView';

export const metadata: Metadata = { title: 'Timelines' };
export const dynamic = 'force-dynamic';

export default async function TimelinesPage() {
  return page(
    () => Promise.all([timelinesOfRig(), clipsOfRig()]),
    ([timelines, clips]) => (
      <TimelinesView timelines={timelines} clips={clips.filter(({ status }) => status === 'ready')} />
    ),
  );
}
