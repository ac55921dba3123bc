import { route } from '@/server/platform/http';
import { requestScan } from '@/server/library/library';

export const POST = route('POST /api/volumes/{id}/scan', ({ ids }) => requestScan(ids.id));
