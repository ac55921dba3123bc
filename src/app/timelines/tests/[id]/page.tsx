import type { Metadata } from 'next';
import { page } from '@/server/page';
import { requireTest } from '@/server/timelineTests';
import { TestView } from '@/ui/timeline/TestView';

export const metadata: Metadata = { title: 'Scrub and load' };
export const dynamic = 'force-dynamic';

export default async function TestPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => requireTest(id),
    (test) => <TestView key={id} initial={test} />,
  );
}
