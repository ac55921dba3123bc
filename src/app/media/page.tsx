import type { Metadata } from 'next';
import { volumesOfRig } from '@/server/library';
import { clipsOfRig } from '@/server/media';
import { page } from '@/server/page';
import { LibraryView } from '@/ui/media/LibraryView';

export const metadata: Metadata = { title: 'Media' };
export const dynamic = 'force-dynamic';

export default function MediaPage() {
  return page(
    () => Promise.all([clipsOfRig(), volumesOfRig()]),
    ([clips, volumes]) => (
      <LibraryView
        clips={clips}
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
