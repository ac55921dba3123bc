import { isRecord } from '../record';
import { BundleError } from './bundleError';

type Trial = Record<string, unknown>;

/** Lists of trials in the first version, with the names that their kinds have now. */
const lists: Readonly<Record<string, (kind: unknown) => unknown>> = {
  playback: (kind) => kind,
  storage: (kind) => (kind === 'streams' ? 'streams-carried' : kind),
  decode: (kind) => (typeof kind === 'string' && kind !== '' ? `decode-${kind}` : kind),
  timelineTests: (kind) => (kind === 'costs' ? 'calibration' : kind),
};

/** The records of a list; an absent list is empty. */
function listAt(record: Trial, field: string, within = ''): Trial[] {
  const value = record[field] ?? [];
  const place = within === '' ? field : `${within}.${field}`;
  if (!Array.isArray(value)) throw new BundleError('no-list', { place });
  value.forEach((entry, index) => {
    if (!isRecord(entry)) throw new BundleError('entry-no-object', { place: `${place}[${index}]` });
  });
  return value as Trial[];
}

/**
 * The trials of a bundle of version 1 as version 2 has them: one list, kinds by one name, a summary in place
 * of a result, and what was recorded by its shape. Each says its place in the file, for what is wrong with it.
 */
export function trialsOfVersion1(root: Record<string, unknown>): Trial[] {
  return Object.entries(lists).flatMap(([list, kindNow]) =>
    listAt(root, list).map((trial, index) => ({
      ...trialNow(trial, kindNow, `${list}[${index}]`),
      place: `${list}[${index}]`,
    })),
  );
}

function trialNow(
  {
    kind,
    settings,
    result,
    record,
    rampStreams,
    trace,
    charges,
    slotCount,
    selfCheck,
    summary,
    ...kept
  }: Trial,
  kindNow: (kind: unknown) => unknown,
  place: string,
): Trial {
  const now = kindNow(kind);
  return {
    ...kept,
    kind: now,
    settings: isRecord(settings) && 'kind' in settings ? { ...settings, kind: now } : settings,
    summary: summaryNow(summary ?? null, result, selfCheck, now),
    ...(typeof slotCount === 'number' ? { progress: { slotCount } } : {}),
    ...(typeof kept.volumeId === 'string' ? { volumeIds: [kept.volumeId] } : {}),
    recorded: {
      traces: trace === undefined ? [] : listAt({ trace }, 'trace', place),
      charges: typeof charges === 'string' ? [{ charges }] : [],
      records: isRecord(record)
        ? [{ record }]
        : Array.isArray(rampStreams) && now === 'streams-carried'
          ? [{ record: { streams: rampStreams } }]
          : [],
    },
  };
}

function summaryNow(summary: unknown, result: unknown, selfCheck: unknown, kind: unknown): unknown {
  if (isRecord(summary)) return isRecord(selfCheck) ? { ...summary, selfCheck } : summary;
  if (!isRecord(result)) return null;
  if (typeof kind === 'string' && kind.startsWith('decode-')) return { ...result, kind };
  return result.summary ?? result.ramp ?? result.costs ?? null;
}
