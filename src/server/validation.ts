import { boolean, number, object, string } from 'yup';

/** Checks of what comes in from pages; shared by routes and forms. Messages say what to do. */
export const volumeInput = object({
  name: string().trim().min(1, 'Give the volume a name.').max(120, 'A name has at most 120 characters.').required('Give the volume a name.'),
  kind: string().oneOf(['internal', 'external', 'network', 'card'] as const, 'Choose internal, external, network or card.').required('Choose a kind.'),
  path: string().trim().matches(/^\//, 'Give the folder as a full path that begins with /.').required('Give the folder that holds the media.'),
}).noUnknown();

export const playbackInput = object({
  clipId: string().required('Choose a clip.'),
  scale: string().oneOf(['full', 'half', 'quarter'] as const, 'Choose full, half or quarter.').required('Choose a playback scale.'),
  policy: string().oneOf(['hold-time', 'every-frame'] as const, 'Choose hold time or every frame.').default('hold-time'),
  threads: number().integer().min(0, 'Threads cannot be negative.').max(256, 'At most 256 threads.').default(0),
  warm: boolean().default(false),
}).noUnknown();

export const rigInput = object({
  name: string().trim().min(1, 'Give the rig a name.').max(80, 'A name has at most 80 characters.').required('Give the rig a name.'),
}).noUnknown();
