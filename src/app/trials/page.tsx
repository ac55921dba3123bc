import type { Metadata } from 'next';
import Link from 'next/link';
import { Suspense } from 'react';
import { clipsOfRig } from '@/server/library';
import { page } from '@/server/page';
import { playbackTrials } from '@/server/trials';
import { Empty } from '@/ui/parts/Empty';
import { StartForm } from '@/ui/trials/StartForm';
import { TrialTable } from '@/ui/trials/TrialTable';

export const metadata: Metadata = { title: 'Trials' };
export const dynamic = 'force-dynamic';

export default function TrialsPage() {
  return page(
    async () => Promise.all([clipsOfRig(), playbackTrials()]),
    ([clips, trials]) => (
      <div className="flex flex-col gap-5">
        <h1>Does it play?</h1>
        {clips.some((clip) => clip.status === 'ready')
          ? <Suspense><StartForm clips={clips} /></Suspense>
          : <Empty title="There is no clip to play" action={<Link prefetch={false} className="underline" href="/storage">Add a volume with media</Link>}>A trial plays one clip from one volume and records every slot of it.</Empty>}
        <TrialTable trials={trials} />
      </div>
    ),
  );
}
