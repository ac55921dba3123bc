import { route } from '@/server/platform/http';
import { deleteTrial } from '@/server/kinds/trialControls';
import { readTrialPage } from '@/server/trials/trialPage';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/trials/{id}', ({ ids }) => readTrialPage(ids.id));

export const DELETE = route('DELETE /api/trials/{id}', ({ ids }) => deleteTrial(ids.id));
