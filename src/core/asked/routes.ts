import { deliveryInput } from '../kinds/export';
import { timelinePlaybackInput } from '../kinds/playback';
import type { ISchema, Lent, Sendable } from '../edge/strict';
import { briefInput, measureInput } from './briefs';
import { annotationInput, cancelWaitingInput, clipActionInput, clipChange, rigInput } from './library';
import { hashListInput } from './hashLists';
import { planActionInput, planInput, seriesInput } from './plans';
import {
  gestureInput,
  importInput,
  loadInput,
  lookInput,
  timelineInput,
  timelineNameInput,
  timelineSaveInput,
} from './timelines';
import type { TrialAsked } from './trials';
import type { ViewerRequest } from './viewer';
import { cameraFormatInput, volumeChange, volumeInput } from './volumes';

/** What a route takes besides the ids in its address. */
export interface RouteFacts {
  /** JSON of this form. What it does not name is left out. */
  readonly body?: ISchema<object>;
  /** A body of another kind, which is checked further in: JSON of several forms, text that is read whole, or a file as it comes. */
  readonly takes?: 'json' | 'text' | 'file';
  /** Most bytes of its body; 1 MB where it does not say. */
  readonly most?: number;
}

/** Most bytes of a body where the route says nothing. */
export const usualMost = 1e6;
/** Of timelines and of files that are read whole. */
const mostDocument = 64e6;

/** Of hash lists, as JSON. */
const mostListBytes = 300e6;

/** All that the server can be asked, by method and path. */
export const routes = {
  'GET /api/health': {},
  'GET /api/status': {},
  'GET /api/events': {},
  'GET /api/find': {},

  'GET /api/rig': {},
  'PATCH /api/rig': { body: rigInput },
  'DELETE /api/rigs/{id}': {},
  'GET /api/bundles': {},
  'POST /api/bundles': { takes: 'text', most: 500e6 },

  'GET /api/volumes': {},
  'POST /api/volumes': { body: volumeInput },
  'GET /api/volumes/{id}': {},
  'PATCH /api/volumes/{id}': { body: volumeChange },
  'DELETE /api/volumes/{id}': {},
  'POST /api/volumes/{id}/scan': {},
  'POST /api/volumes/{id}/upload': { takes: 'file', most: Infinity },
  'GET /api/storage/ladder': {},
  'GET /api/storage/copies': {},
  'GET /api/volumes/{id}/hash-lists': {},
  'POST /api/hash-lists': { body: hashListInput, most: mostListBytes },
  'GET /api/camera-formats': {},
  'POST /api/camera-formats': { body: cameraFormatInput },
  'DELETE /api/camera-formats': {},
  'PATCH /api/camera-formats/{id}': { body: cameraFormatInput },
  'PUT /api/camera-formats/{id}': { body: cameraFormatInput },
  'DELETE /api/camera-formats/{id}': {},

  'GET /api/clips': {},
  'POST /api/clips/actions': { body: clipActionInput },
  'GET /api/clips/{id}': {},
  'PATCH /api/clips/{id}': { body: clipChange },
  'GET /api/clips/{id}/frames': {},
  'GET /api/clips/{id}/strip': {},
  'GET /api/renditions': {},
  'GET /api/decode/rates': {},
  'GET /api/decode/support': {},
  'POST /api/decode/devices': {},

  'GET /api/timelines': {},
  'POST /api/timelines': { body: timelineInput },
  'POST /api/timelines/load': { body: loadInput },
  'POST /api/timelines/import': { body: importInput, most: mostDocument },
  'GET /api/timelines/{id}': {},
  'PUT /api/timelines/{id}': { body: timelineSaveInput, most: mostDocument },
  'DELETE /api/timelines/{id}': {},
  'POST /api/timelines/{id}/copy': { body: timelineNameInput },
  'GET /api/timelines/{id}/export': {},
  'POST /api/timelines/{id}/forecast': { body: timelinePlaybackInput },
  'POST /api/timelines/{id}/relink': {},
  'GET /api/timelines/{id}/versions': {},
  'POST /api/timelines/{id}/versions': { body: timelineNameInput },
  'GET /api/timelines/{id}/versions/{number}': {},
  'GET /api/timelines/{id}/prerenders': {},
  'DELETE /api/timelines/{id}/prerenders/{clipId}': {},
  'GET /api/viewers/{id}': {},
  'POST /api/viewers/{id}': { takes: 'text', most: mostDocument },
  'GET /api/looks': {},
  'POST /api/looks': { body: lookInput, most: mostDocument },
  'GET /api/looks/{id}': {},
  'GET /api/gestures': {},
  'POST /api/gestures': { body: gestureInput },
  'DELETE /api/gestures/{id}': {},
  'POST /api/deliveries': { body: deliveryInput },
  'DELETE /api/deliveries/{id}': {},

  'GET /api/trials': {},
  'POST /api/trials': { takes: 'json' },
  'POST /api/trials/cancel-waiting': { body: cancelWaitingInput },
  'GET /api/trials/{id}': {},
  'DELETE /api/trials/{id}': {},
  'POST /api/trials/{id}/{control}': {},
  'GET /api/trials/{id}/csv': {},
  'PUT /api/trials/{id}/note': { body: annotationInput },
  'GET /api/trials/{id}/pictures': {},
  'GET /api/trials/{id}/rates': {},
  'GET /api/trials/{id}/samples': {},
  'GET /api/trials/{id}/trace': {},
  'GET /api/compare': {},

  'GET /api/plans': {},
  'POST /api/plans': { body: planInput },
  'POST /api/plans/preview': { body: planInput },
  'POST /api/plans/series': { body: seriesInput },
  'GET /api/plans/{id}': {},
  'DELETE /api/plans/{id}': {},
  'POST /api/plans/{id}/actions': { body: planActionInput },
  'POST /api/plans/{id}/repeat': {},
  'GET /api/briefs': {},
  'POST /api/briefs': { body: briefInput },
  'GET /api/briefs/{id}': {},
  'PUT /api/briefs/{id}': { body: briefInput },
  'DELETE /api/briefs/{id}': {},
  'POST /api/briefs/{id}/measure': { body: measureInput },
} as const satisfies Readonly<Record<string, RouteFacts>>;

export type RouteName = keyof typeof routes;

/** Names of the ids in a route's address. */
export type IdsOf<Name extends string> = Name extends `${string}{${infer Id}}${infer Rest}`
  ? Id | IdsOf<Rest>
  : never;

/** Bodies of routes that check them further in. */
interface CheckedWithin {
  readonly 'POST /api/bundles': string;
  readonly 'POST /api/trials': TrialAsked;
  readonly 'POST /api/viewers/{id}': Lent<ViewerRequest>;
}
/** What a route may be sent; undefined where it takes nothing. */
export type SentTo<Name extends RouteName> = Name extends keyof CheckedWithin
  ? CheckedWithin[Name]
  : (typeof routes)[Name] extends { readonly body: infer Body extends ISchema<object> }
    ? Sendable<Body>
    : undefined;
