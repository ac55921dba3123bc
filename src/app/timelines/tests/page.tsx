import type { Metadata } from 'next';
import { clipsOfRig } from '@/server/media';
import { page } from '@/server/page';
import { gesturesKept, testsOfRig } from '@/server/timelineTests';
import { timelinesOfRig } from '@/server/timelines';
import { TestsView } from '@/ui/timeline/TestsView';

export const metadata: Metadata = { title: 'Scrub and load' };
export const dynamic = 'force-dynamic';

export default async function TestsPage({ searchParams }: { searchParams: Promise<{ timeline?: string }> }) {
  const { timeline = null } = await searchParams;
  return page(
    () => Promise.all([testsOfRig(), timelinesOfRig(), clipsOfRig(), gesturesKept()]),
    ([tests, timelines, clips, gestures]) => (
      <TestsView
        tests={tests}
        timelines={timelines}
        clips={clips.filter(({ status }) => status === 'ready')}
        gestures={gestures.map(({ id, name }) => ({ id, name }))}
        wantedTimelineId={timeline}
      />
    ),
  );
}
