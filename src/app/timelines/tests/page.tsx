import type { Metadata } from 'next';
import { handKinds } from '@/core/kinds/kinds';
import { usableDevices } from '@/server/decode';
import { firstClip } from '@/server/clipList';
import { page } from '@/server/page';
import { gesturesKept } from '@/server/timelineTrials';
import { timelinesOfRig } from '@/server/timelines';
import { readOwnList } from '@/server/trialList';
import { TestsView } from '@/ui/timeline/TestsView';

export const metadata: Metadata = { title: 'Scrub and load' };
export const dynamic = 'force-dynamic';

export default async function TestsPage({ searchParams }: { searchParams: Promise<{ timeline?: string }> }) {
  const { timeline = null } = await searchParams;
  return page(
    () =>
      Promise.all([readOwnList(handKinds), timelinesOfRig(), firstClip(), gesturesKept(), usableDevices()]),
    ([list, timelines, clip, gestures, devices]) => (
      <TestsView
        list={list}
        timelines={timelines}
        firstClip={clip}
        devices={devices}
        gestures={gestures.map(({ id, name }) => ({ id, name }))}
        wantedTimelineId={timeline}
      />
    ),
  );
}
