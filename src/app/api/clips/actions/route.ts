import { route } from '@/server/platform/http';
import { actOnClips } from '@/server/library/media';

export const POST = route('POST /api/clips/actions', ({ body }) => actOnClips(body.action, body.clipIds));
