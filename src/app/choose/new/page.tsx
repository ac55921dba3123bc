import type { Metadata } from 'next';
import Link from 'next/link';
import { readBriefForm } from '@/server/briefs';
import { page } from '@/server/page';
import { BriefForm } from '@/ui/choose/BriefForm';
import { Empty } from '@/ui/parts/Empty';

export const metadata: Metadata = { title: 'New brief' };
export const dynamic = 'force-dynamic';

export default async function NewBriefPage() {
  return page(readBriefForm, (offer) => (
    <div className="flex flex-col gap-5">
      <h1>What has to be decided?</h1>
      {offer.clips.length === 0 ? (
        <Empty
          title="There is no clip to stand for a camera"
          action={
            <Link prefetch={false} className="underline" href="/choose/first">
              Begin with a folder of clips
            </Link>
          }
        >
          A brief takes each camera&rsquo;s format from a clip of it.
        </Empty>
      ) : (
        <BriefForm offer={offer} id={null} name="" brief={null} />
      )}
    </div>
  ));
}
