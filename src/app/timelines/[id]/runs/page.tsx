import type { Metadata } from 'next';
import { page } from '@/server/platform/page';
import { requireTimeline } from '@/server/timelines/timelines';
import { readListPart } from '@/server/trials/trialList';
import { runsOfTimeline } from '@/server/timelines/playedTrials';
import { RunsView } from '@/ui/timeline/RunsView';

export const metadata: Metadata = { title: 'Runs of a timeline' };
export const dynamic = 'force-dynamic';

export default async function RunsPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    async () =>
      Promise.all([
        requireTimeline(id),
        runsOfTimeline(id),
        readListPart({ timeline: id, kind: 'playback' }),
      ]),
    ([timeline, runs, list]) => <RunsView name={timeline.name} timelineId={id} runs={runs} list={list} />,
  );
}
