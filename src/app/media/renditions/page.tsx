import { page } from '@/server/page';
import { readRenditionsPage } from '@/server/renditions';
import { RenditionsView } from '@/ui/renditions/RenditionsView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Renditions' };

export default async function RenditionsPageRoute({
  searchParams,
}: {
  searchParams: Promise<{ clips?: string }>;
}) {
  const { clips = '' } = await searchParams;
  return page(readRenditionsPage, (data) => (
    <RenditionsView initial={data} wanted={clips === '' ? [] : clips.split(',')} />
  ));
}
