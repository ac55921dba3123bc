import type { Metadata } from 'next';
import Link from 'next/link';
import { clipsOfRig } from '@/server/media';
import { page } from '@/server/page';
import { playbackTrials } from '@/server/trials';
import { Empty } from '@/ui/parts/Empty';
import { StartForm } from '@/ui/trials/StartForm';
import { TrialTable } from '@/ui/trials/TrialTable';

export const metadata: Metadata = { title: 'Trials' };
export const dynamic = 'force-dynamic';

export default async function TrialsPage({ searchParams }: { searchParams: Promise<{ clip?: string }> }) {
  const { clip: wantedClipId = null } = await searchParams;
  return page(
    async () => Promise.all([clipsOfRig(), playbackTrials()]),
    ([clips, trials]) => (
      <div className="flex flex-col gap-5">
        <h1>Does it play?</h1>
        {clips.some((clip) => clip.status === 'ready') ? (
          <StartForm clips={clips} wantedClipId={wantedClipId} />
        ) : (
          <Empty
            title="There is no clip to play"
            action={
              <Link prefetch={false} className="underline" href="/storage">
                Add a volume with media
              </Link>
            }
          >
            A trial plays one clip from one volume and records every slot of it.
          </Empty>
        )}
        <TrialTable trials={trials} />
      </div>
    ),
  );
}
