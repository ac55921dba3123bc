import { lookAtDevices } from '@/server/library/decode';
import { route } from '@/server/platform/http';

export const POST = route('POST /api/decode/devices', lookAtDevices);
