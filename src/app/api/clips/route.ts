import { route } from '@/server/http';
import { clipsOfRig } from '@/server/media';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/clips', clipsOfRig);
