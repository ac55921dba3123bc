import { route } from '@/server/platform/http';
import { forecastOf } from '@/server/timelines/timelineForecast';

/** What a run under these settings is expected to do. */
export const POST = route('POST /api/timelines/{id}/forecast', ({ ids, body }) => forecastOf(ids.id, body));
