/** Series and matrices as they are asked for. Messages say what to do. */
import { array, boolean, identity, number, object, string, type InferType } from '../edge/strict';
import { softwareId } from '../decode/decoding';
import { planForms, planOrders, planTests } from '../plan/matrix';
import { cacheWay, scale, whole } from '../kinds/shared/asked';

const planName = string().trim().max(200, 'A name has at most 200 characters.').default('');

const repeats = whole('Repeats').min(1, 'At least one repeat.').max(100, 'At most 100 repeats.');

const mostMadeUp = number()
  .typeError('Runs for those in doubt must be a number.')
  .integer('Runs must be a whole number.')
  .min(0, 'Runs for those in doubt are 0 or more.')
  .max(20, 'At most 20 more runs.')
  .default(0);

export const planInput = object({
  name: planName,
  question: string().max(40).default('own'),
  subjects: array(
    object({
      kind: string()
        .oneOf(['clip', 'timeline'] as const)
        .required(),
      id: identity().required(),
    }),
  )
    .max(500, 'At most 500 clips and timelines.')
    .default([]),
  volumeIds: array(identity().required()).max(50, 'At most 50 volumes.').default([]),
  forms: array(string().oneOf(planForms, 'Choose originals or proxies.').required())
    .min(1, 'Choose originals, proxies or both.')
    .required('Choose originals, proxies or both.')
    .default(['originals']),
  scales: array(scale.required())
    .min(1, 'Choose at least one playback scale.')
    .required('Choose at least one playback scale.')
    .default(['full']),
  deviceIds: array(string().max(200).required())
    .min(1, 'Choose software, a device or both.')
    .max(20, 'At most 20 devices.')
    .default([softwareId]),
  caches: array(cacheWay.required()).min(1, 'Choose past the cache, through it or both.').default(['past']),
  tests: array(string().oneOf(planTests, 'Choose a test.').required())
    .min(1, 'Choose at least one test.')
    .required('Choose at least one test.'),
  repeats: repeats.default(3),
  mostMadeUp,
  order: string().oneOf(planOrders, 'Choose interleaved or random.').default('interleaved'),
  seed: number()
    .typeError('The seed must be a number.')
    .integer('The seed is a whole number.')
    .min(0)
    .max(4_294_967_295)
    .default(1),
  warm: boolean().default(false),
  policy: string()
    .oneOf(['hold-time', 'every-frame'] as const, 'Choose hold time or every frame.')
    .default('hold-time'),
}).noUnknown();

export const seriesInput = object({
  trialId: identity().required('Choose a trial.'),
  repeats: repeats.default(5),
  mostMadeUp,
}).noUnknown();

export const planActionInput = object({
  action: string()
    .oneOf(
      ['pause', 'resume', 'cancel', 'skip', 'skip-cell', 'repeat-doubtful', 'repeat-failed'] as const,
      'Say what to do.',
    )
    .required('Say what to do.'),
  /** Of `skip` (a run) and `skip-cell`. */
  position: number().integer().min(0).nullable().default(null),
  cell: number().integer().min(0).nullable().default(null),
}).noUnknown();

export type PlanAction = InferType<typeof planActionInput>['action'];
