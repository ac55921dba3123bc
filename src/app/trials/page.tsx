import type { Metadata } from 'next';
import Link from 'next/link';
import { usableDevices } from '@/server/library/decode';
import { firstClip } from '@/server/library/clipList';
import { page } from '@/server/platform/page';
import { readListPart, type ListQuery } from '@/server/trials/trialList';
import { Empty } from '@/ui/parts/Empty';
import { StartForm } from '@/ui/trials/StartForm';
import { TrialList } from '@/ui/trials/TrialList';

export const metadata: Metadata = { title: 'Trials' };
export const dynamic = 'force-dynamic';

export default async function TrialsPage({
  searchParams,
}: {
  searchParams: Promise<ListQuery & { readonly clip?: string }>;
}) {
  // A clip in the address is one to be played; the list is not narrowed to it.
  const { clip: wantedClipId, ...asked } = await searchParams;
  return page(
    async () => Promise.all([firstClip({ id: wantedClipId }), readListPart({}, asked), usableDevices()]),
    ([clip, list, devices]) => (
      <div className="flex flex-col gap-5">
        <h1>Does it play?</h1>
        {clip ? (
          <StartForm first={clip} devices={devices} />
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
        <TrialList
          list={list}
          label="Trials"
          linked
          empty={
            <Empty title="No trial yet">
              Each trial of any kind is listed here, with its result one step away. Choose a clip and a
              playback scale above, then press Play and measure.
            </Empty>
          }
        />
      </div>
    ),
  );
}
