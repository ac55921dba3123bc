import { page } from '@/server/platform/page';
import { readRenditionsPage } from '@/server/library/renditions';
import { readOwnList } from '@/server/trials/trialList';
import { RenditionsView } from '@/ui/renditions/RenditionsView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Renditions' };

export default async function RenditionsPageRoute({
  searchParams,
}: {
  searchParams: Promise<{ clips?: string }>;
}) {
  const { clips = '' } = await searchParams;
  return page(
    () => Promise.all([readRenditionsPage(), readOwnList(['renditions'])]),
    ([data, list]) => (
      <RenditionsView initial={data} list={list} wanted={clips === '' ? [] : clips.split(',')} />
    ),
  );
}
