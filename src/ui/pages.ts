import type { AsJson } from './api';
import type { TrialKind } from '@/core/kinds/kinds';
import type { TrialListRow as TrialRecord } from '@/db/kinds';
import type { BriefRow as BriefRecord } from '@/db/queries/briefs';
import type * as cameraFormats from '@/db/queries/cameraFormats';
import type { PlanListRow as PlanRecord } from '@/db/queries/plans';
import type * as rigs from '@/db/queries/rigs';
import type * as volumes from '@/db/queries/volumes';
import type * as briefs from '@/server/decide/briefs';
import type * as decode from '@/server/library/decode';
import type * as media from '@/server/library/media';
import type * as plans from '@/server/decide/plans';
import type * as prerenders from '@/server/timelines/prerenders';
import type * as renditions from '@/server/library/renditions';
import type * as rig from '@/server/platform/rig';
import type * as storage from '@/server/library/storage';

/** What pages are made of, as they have it: from the server when they are drawn, and through JSON from then on. */
export type BriefRow = AsJson<BriefRecord>;
export type CameraFormatRow = AsJson<cameraFormats.CameraFormatRow>;
export type PlanListRow = AsJson<PlanRecord>;
export type RigRow = AsJson<rigs.RigRow>;
export type VolumeRow = AsJson<volumes.VolumeRow>;
export type VolumeWithCounts = AsJson<volumes.VolumeWithCounts>;
export type BriefPage = AsJson<briefs.BriefPage>;
export type DecodePage = AsJson<decode.DecodePage>;
export type SupportPage = AsJson<decode.SupportPage>;
export type ClipPage = AsJson<media.ClipPage>;
export type PlanPage = AsJson<plans.PlanPage>;
export type PrerenderView = AsJson<prerenders.PrerenderView>;
export type RenditionsPage = AsJson<renditions.RenditionsPage>;
export type CopiesPage = AsJson<storage.CopiesPage>;
export type StoragePage = AsJson<storage.StoragePage>;
export type VolumePage = AsJson<storage.VolumePage>;
export type LadderPage = AsJson<Awaited<ReturnType<typeof storage.readLadder>>>;
export type RigPage = AsJson<Awaited<ReturnType<typeof rig.readRigPage>>>;
/** A trial in a list. */
export type TrialListRow<Kind extends TrialKind> = AsJson<TrialRecord<Kind>>;
