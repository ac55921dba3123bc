import { route } from '@/server/http';
import { nameRig, readRigPage } from '@/server/rig';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/rig', readRigPage);

export const PATCH = route('PATCH /api/rig', ({ body }) => nameRig(body.name));
