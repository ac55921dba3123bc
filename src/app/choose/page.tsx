import type { Metadata } from 'next';
import { briefsOfRig } from '@/server/decide/briefs';
import { page } from '@/server/platform/page';
import { BriefsView } from '@/ui/choose/BriefsView';

export const metadata: Metadata = { title: 'Choose' };
export const dynamic = 'force-dynamic';

export default async function ChoosePage() {
  return page(briefsOfRig, (briefs) => <BriefsView initial={briefs} />);
}
