import type { Metadata } from 'next';
import { page } from '@/server/platform/page';
import { readCopiesPage } from '@/server/library/storage';
import { readOwnList } from '@/server/trials/trialList';
import { CopiesView } from '@/ui/storage/CopiesView';

export const metadata: Metadata = { title: 'Card copies' };
export const dynamic = 'force-dynamic';

export default function CopiesPage() {
  return page(
    () => Promise.all([readCopiesPage(), readOwnList(['copy', 'verification'])]),
    ([data, list]) => <CopiesView page={data} list={list} />,
  );
}
