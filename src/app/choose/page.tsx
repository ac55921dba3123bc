import type { Metadata } from 'next';
import { briefsOfRig } from '@/server/briefs';
import { page } from '@/server/page';
import { BriefsView } from '@/ui/choose/BriefsView';

export const metadata: Metadata = { title: 'Choose' };
export const dynamic = 'force-dynamic';

export default async function ChoosePage() {
  return page(briefsOfRig, (briefs) => <BriefsView initial={briefs} />);
}
