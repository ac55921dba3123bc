import type { Metadata } from 'next';
import { volumesOfRig } from '@/server/library/library';
import { readLibraryPart, type LibraryQuery } from '@/server/library/clipList';
import { page } from '@/server/platform/page';
import { LibraryView } from '@/ui/media/LibraryView';

export const metadata: Metadata = { title: 'Media' };
export const dynamic = 'force-dynamic';

export default async function MediaPage({ searchParams }: { searchParams: Promise<LibraryQuery> }) {
  const asked = await searchParams;
  return page(
    () => Promise.all([readLibraryPart(asked), volumesOfRig()]),
    ([part, volumes]) => (
      <LibraryView
        {...part}
        volumes={volumes.map(({ id, name, standIn, facts }) => ({
          id,
          name,
          simulated: standIn !== null,
          writable: facts.writable,
        }))}
      />
    ),
  );
}
