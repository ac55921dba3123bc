import { preload } from 'react-dom';
import { playedKinds } from '@/core/kinds/kinds';
import { page } from '@/server/platform/page';
import { readTrialPage } from '@/server/trials/trialPage';
import { TrialView } from '@/ui/trialPage/TrialView';
import { addressOf } from '@/ui/api';

export const dynamic = 'force-dynamic';

export async function generateMetadata({ params }: { params: Promise<{ id: string }> }) {
  return { title: `Trial ${(await params).id}` };
}

export default async function TrialPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  // The trace is asked for while the page's own code still loads.
  preload(addressOf('GET /api/trials/{id}/trace', { ids: { id } }), {
    as: 'fetch',
    crossOrigin: 'anonymous',
  });
  return page(
    () => readTrialPage(id, playedKinds),
    (data) => <TrialView key={id} initial={data} />,
  );
}
