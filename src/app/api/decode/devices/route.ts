import { lookAtDevices } from '@/server/decode';
import { route } from '@/server/http';

export const POST = route('POST /api/decode/devices', lookAtDevices);
