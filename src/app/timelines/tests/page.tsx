import { together } from '@/core/together';
import type { Metadata } from 'next';
import { handKinds } from '@/core/kinds/kinds';
import { usableDevices } from '@/server/library/decode';
import { firstClip } from '@/server/library/clipList';
import { page } from '@/server/platform/page';
import { gesturesKept } from '@/server/timelines/timelineTrials';
import { timelinesOfRig } from '@/server/timelines/timelines';
import { readOwnList } from '@/server/trials/trialList';
import { TestsView } from '@/ui/timeline/TestsView';

export const metadata: Metadata = { title: 'Scrub and load' };
export const dynamic = 'force-dynamic';

export default async function TestsPage({ searchParams }: { searchParams: Promise<{ timeline?: string }> }) {
  const { timeline = null } = await searchParams;
  return page(
    () =>
      together({
        list: readOwnList(handKinds),
        timelines: timelinesOfRig(),
        clip: firstClip(),
        gestures: gesturesKept(),
        devices: usableDevices(),
      }),
    ({ list, timelines, clip, gestures, devices }) => (
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
