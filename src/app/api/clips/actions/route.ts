import { route } from '@/server/http';
import { actOnClips } from '@/server/media';

export const POST = route('POST /api/clips/actions', ({ body }) => actOnClips(body.action, body.clipIds));
