import type { Metadata } from 'next';
import { page } from '@/server/platform/page';
import { testsByIds } from '@/server/timelines/timelineTrials';
import { CompareScrubs } from '@/ui/timeline/CompareScrubs';

export const metadata: Metadata = { title: 'Scrub trials on one plot' };
export const dynamic = 'force-dynamic';

export default async function ComparePage({ searchParams }: { searchParams: Promise<{ ids?: string }> }) {
  const { ids = '' } = await searchParams;
  return page(
    () => testsByIds(ids.split(',').filter(Boolean).slice(0, 12)),
    (tests) => <CompareScrubs tests={tests} />,
  );
}
