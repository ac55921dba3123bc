import type { TrialKind } from './kinds';

/** Where results of each kind are shown. */
const pages: Readonly<Record<TrialKind, string>> = {
  playback: '/trials',
  'self-check': '/trials',
  scrub: '/timelines/tests',
  ramp: '/timelines/tests',
  calibration: '/timelines/tests',
  'decode-rate': '/media/decode',
  'decode-support': '/media/decode',
  'decode-streams': '/media/decode',
  throughput: '/storage/trials',
  'streams-carried': '/storage/trials',
  copy: '/storage/trials',
  renditions: '/media/renditions',
};

/** The page of a result. */
export function trialHref({ kind, id }: { readonly kind: TrialKind; readonly id: string }): string {
  return `${pages[kind]}/${id}`;
}
