import { redirect } from 'next/navigation';
import { briefsOfRig } from '@/server/decide/briefs';
import { statusOrNull } from '@/server/platform/page';

/** Leads to the first section where something is missing, else to the newest brief, else to the trials. */
export default async function Home() {
  const status = await statusOrNull();
  const [brief] = status && status.briefs > 0 ? await briefsOfRig() : [];
  redirect(
    status && status.volumes === 0
      ? '/storage'
      : status && status.clips === 0
        ? '/media'
        : brief
          ? `/choose/${brief.id}`
          : '/trials',
  );
}
