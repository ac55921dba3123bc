import type { Metadata } from 'next';
import Link from 'next/link';
import { readBriefForm } from '@/server/decide/briefs';
import { page } from '@/server/platform/page';
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
          title="No clip stands for a camera yet"
          action={
            <Link prefetch={false} className="underline" href="/choose/first">
              Start with a folder of clips
            </Link>
          }
        >
          A brief takes each camera&rsquo;s format from one of its clips.
        </Empty>
      ) : (
        <BriefForm offer={offer} id={null} name="" brief={null} />
      )}
    </div>
  ));
}
