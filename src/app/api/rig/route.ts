import { route } from '@/server/platform/http';
import { changeRig, readRigPage } from '@/server/platform/rig';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/rig', readRigPage);

export const PATCH = route('PATCH /api/rig', ({ body }) => changeRig(body));
