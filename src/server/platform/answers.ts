import 'server-only';
import type { RouteName } from '@/core/asked/routes';
import type { GivenBy } from './http';

/**
 * What the work of every route gives, as its own file says it: what a page is answered is read from here, and nothing is said twice.
 */
export interface Given extends Record<RouteName, unknown> {
  'GET /api/health': GivenBy<typeof import('@/app/api/health/route').GET>;
  'GET /api/status': GivenBy<typeof import('@/app/api/status/route').GET>;
  'GET /api/events': GivenBy<typeof import('@/app/api/events/route').GET>;
  'GET /api/rig': GivenBy<typeof import('@/app/api/rig/route').GET>;
  'PATCH /api/rig': GivenBy<typeof import('@/app/api/rig/route').PATCH>;
  'DELETE /api/rigs/{id}': GivenBy<typeof import('@/app/api/rigs/[id]/route').DELETE>;
  'GET /api/bundles': GivenBy<typeof import('@/app/api/bundles/route').GET>;
  'POST /api/hash-lists': GivenBy<typeof import('@/app/api/hash-lists/route').POST>;
  'GET /api/volumes/{id}/hash-lists': GivenBy<typeof import('@/app/api/volumes/[id]/hash-lists/route').GET>;
  'POST /api/bundles': GivenBy<typeof import('@/app/api/bundles/route').POST>;
  'GET /api/volumes': GivenBy<typeof import('@/app/api/volumes/route').GET>;
  'POST /api/volumes': GivenBy<typeof import('@/app/api/volumes/route').POST>;
  'GET /api/volumes/{id}': GivenBy<typeof import('@/app/api/volumes/[id]/route').GET>;
  'PATCH /api/volumes/{id}': GivenBy<typeof import('@/app/api/volumes/[id]/route').PATCH>;
  'DELETE /api/volumes/{id}': GivenBy<typeof import('@/app/api/volumes/[id]/route').DELETE>;
  'POST /api/volumes/{id}/scan': GivenBy<typeof import('@/app/api/volumes/[id]/scan/route').POST>;
  'POST /api/volumes/{id}/upload': GivenBy<typeof import('@/app/api/volumes/[id]/upload/route').POST>;
  'GET /api/storage/ladder': GivenBy<typeof import('@/app/api/storage/ladder/route').GET>;
  'GET /api/storage/copies': GivenBy<typeof import('@/app/api/storage/copies/route').GET>;
  'GET /api/camera-formats': GivenBy<typeof import('@/app/api/camera-formats/route').GET>;
  'POST /api/camera-formats': GivenBy<typeof import('@/app/api/camera-formats/route').POST>;
  'DELETE /api/camera-formats': GivenBy<typeof import('@/app/api/camera-formats/route').DELETE>;
  'PATCH /api/camera-formats/{id}': GivenBy<typeof import('@/app/api/camera-formats/[id]/route').PATCH>;
  'PUT /api/camera-formats/{id}': GivenBy<typeof import('@/app/api/camera-formats/[id]/route').PUT>;
  'DELETE /api/camera-formats/{id}': GivenBy<typeof import('@/app/api/camera-formats/[id]/route').DELETE>;
  'GET /api/find': GivenBy<typeof import('@/app/api/find/route').GET>;
  'GET /api/clips': GivenBy<typeof import('@/app/api/clips/route').GET>;
  'POST /api/clips/actions': GivenBy<typeof import('@/app/api/clips/actions/route').POST>;
  'GET /api/clips/{id}': GivenBy<typeof import('@/app/api/clips/[id]/route').GET>;
  'PATCH /api/clips/{id}': GivenBy<typeof import('@/app/api/clips/[id]/route').PATCH>;
  'GET /api/clips/{id}/frames': GivenBy<typeof import('@/app/api/clips/[id]/frames/route').GET>;
  'GET /api/clips/{id}/strip': GivenBy<typeof import('@/app/api/clips/[id]/strip/route').GET>;
  'GET /api/renditions': GivenBy<typeof import('@/app/api/renditions/route').GET>;
  'GET /api/decode/rates': GivenBy<typeof import('@/app/api/decode/rates/route').GET>;
  'GET /api/decode/support': GivenBy<typeof import('@/app/api/decode/support/route').GET>;
  'POST /api/decode/devices': GivenBy<typeof import('@/app/api/decode/devices/route').POST>;
  'GET /api/timelines': GivenBy<typeof import('@/app/api/timelines/route').GET>;
  'POST /api/timelines': GivenBy<typeof import('@/app/api/timelines/route').POST>;
  'POST /api/timelines/load': GivenBy<typeof import('@/app/api/timelines/load/route').POST>;
  'POST /api/timelines/import': GivenBy<typeof import('@/app/api/timelines/import/route').POST>;
  'GET /api/timelines/{id}': GivenBy<typeof import('@/app/api/timelines/[id]/route').GET>;
  'PUT /api/timelines/{id}': GivenBy<typeof import('@/app/api/timelines/[id]/route').PUT>;
  'DELETE /api/timelines/{id}': GivenBy<typeof import('@/app/api/timelines/[id]/route').DELETE>;
  'POST /api/timelines/{id}/copy': GivenBy<typeof import('@/app/api/timelines/[id]/copy/route').POST>;
  'GET /api/timelines/{id}/export': GivenBy<typeof import('@/app/api/timelines/[id]/export/route').GET>;
  'POST /api/timelines/{id}/forecast': GivenBy<typeof import('@/app/api/timelines/[id]/forecast/route').POST>;
  'POST /api/timelines/{id}/relink': GivenBy<typeof import('@/app/api/timelines/[id]/relink/route').POST>;
  'GET /api/timelines/{id}/versions': GivenBy<typeof import('@/app/api/timelines/[id]/versions/route').GET>;
  'POST /api/timelines/{id}/versions': GivenBy<typeof import('@/app/api/timelines/[id]/versions/route').POST>;
  'GET /api/timelines/{id}/versions/{number}': GivenBy<
    typeof import('@/app/api/timelines/[id]/versions/[number]/route').GET
  >;
  'GET /api/timelines/{id}/prerenders': GivenBy<
    typeof import('@/app/api/timelines/[id]/prerenders/route').GET
  >;
  'DELETE /api/timelines/{id}/prerenders/{clipId}': GivenBy<
    typeof import('@/app/api/timelines/[id]/prerenders/[clipId]/route').DELETE
  >;
  'GET /api/viewers/{id}': GivenBy<typeof import('@/app/api/viewers/[id]/route').GET>;
  'POST /api/viewers/{id}': GivenBy<typeof import('@/app/api/viewers/[id]/route').POST>;
  'GET /api/looks': GivenBy<typeof import('@/app/api/looks/route').GET>;
  'POST /api/looks': GivenBy<typeof import('@/app/api/looks/route').POST>;
  'GET /api/looks/{id}': GivenBy<typeof import('@/app/api/looks/[id]/route').GET>;
  'GET /api/gestures': GivenBy<typeof import('@/app/api/gestures/route').GET>;
  'POST /api/gestures': GivenBy<typeof import('@/app/api/gestures/route').POST>;
  'DELETE /api/gestures/{id}': GivenBy<typeof import('@/app/api/gestures/[id]/route').DELETE>;
  'POST /api/deliveries': GivenBy<typeof import('@/app/api/deliveries/route').POST>;
  'DELETE /api/deliveries/{id}': GivenBy<typeof import('@/app/api/deliveries/[id]/route').DELETE>;
  'GET /api/trials': GivenBy<typeof import('@/app/api/trials/route').GET>;
  'POST /api/trials': GivenBy<typeof import('@/app/api/trials/route').POST>;
  'POST /api/trials/cancel-waiting': GivenBy<typeof import('@/app/api/trials/cancel-waiting/route').POST>;
  'GET /api/trials/{id}': GivenBy<typeof import('@/app/api/trials/[id]/route').GET>;
  'DELETE /api/trials/{id}': GivenBy<typeof import('@/app/api/trials/[id]/route').DELETE>;
  'POST /api/trials/{id}/{control}': GivenBy<typeof import('@/app/api/trials/[id]/[control]/route').POST>;
  'GET /api/trials/{id}/csv': GivenBy<typeof import('@/app/api/trials/[id]/csv/route').GET>;
  'PUT /api/trials/{id}/note': GivenBy<typeof import('@/app/api/trials/[id]/note/route').PUT>;
  'GET /api/trials/{id}/pictures': GivenBy<typeof import('@/app/api/trials/[id]/pictures/route').GET>;
  'GET /api/trials/{id}/rates': GivenBy<typeof import('@/app/api/trials/[id]/rates/route').GET>;
  'GET /api/trials/{id}/samples': GivenBy<typeof import('@/app/api/trials/[id]/samples/route').GET>;
  'GET /api/trials/{id}/trace': GivenBy<typeof import('@/app/api/trials/[id]/trace/route').GET>;
  'GET /api/compare': GivenBy<typeof import('@/app/api/compare/route').GET>;
  'GET /api/plans': GivenBy<typeof import('@/app/api/plans/route').GET>;
  'POST /api/plans': GivenBy<typeof import('@/app/api/plans/route').POST>;
  'POST /api/plans/preview': GivenBy<typeof import('@/app/api/plans/preview/route').POST>;
  'POST /api/plans/series': GivenBy<typeof import('@/app/api/plans/series/route').POST>;
  'GET /api/plans/{id}': GivenBy<typeof import('@/app/api/plans/[id]/route').GET>;
  'DELETE /api/plans/{id}': GivenBy<typeof import('@/app/api/plans/[id]/route').DELETE>;
  'POST /api/plans/{id}/actions': GivenBy<typeof import('@/app/api/plans/[id]/actions/route').POST>;
  'POST /api/plans/{id}/repeat': GivenBy<typeof import('@/app/api/plans/[id]/repeat/route').POST>;
  'GET /api/briefs': GivenBy<typeof import('@/app/api/briefs/route').GET>;
  'POST /api/briefs': GivenBy<typeof import('@/app/api/briefs/route').POST>;
  'GET /api/briefs/{id}': GivenBy<typeof import('@/app/api/briefs/[id]/route').GET>;
  'PUT /api/briefs/{id}': GivenBy<typeof import('@/app/api/briefs/[id]/route').PUT>;
  'DELETE /api/briefs/{id}': GivenBy<typeof import('@/app/api/briefs/[id]/route').DELETE>;
  'POST /api/briefs/{id}/measure': GivenBy<typeof import('@/app/api/briefs/[id]/measure/route').POST>;
}
