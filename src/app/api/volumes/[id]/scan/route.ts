import { route } from '@/server/http';
import { requestScan } from '@/server/library';

export const POST = route('POST /api/volumes/{id}/scan', ({ ids }) => requestScan(ids.id));
