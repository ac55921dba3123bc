import type { TrialKind } from '@/core/kinds/kinds';
import type { TrialRow } from '@/db/kinds';
import type { ListPart, TrialLine } from '@/server/trials/trialList';
import type { TrialPage } from '@/server/trials/trialPage';

/** What rows of all kinds have alike, as a finished trial of this rig has it. */
export const plainRow = {
  rigId: 'r',
  clipId: null,
  volumeIds: [],
  timelineId: null,
  status: 'done',
  outcome: null,
  detail: null,
  conditions: null,
  load: null,
  progress: null,
  record: null,
  summary: null,
  planId: null,
  planCell: null,
  origin: 'measured',
  simulated: false,
  demo: 0,
  createdAt: new Date(0),
  startedAt: new Date(0),
  endedAt: new Date(0),
} as const;

/** Conditions that trials of all kinds tell. */
export const plainConditions = {
  rig: {
    host: 'h',
    processor: 'Two-core server processor',
    physicalCores: 2,
    logicalCores: 2,
    memoryBytes: 24e9,
    graphics: [],
    system: 's',
    kernel: 'k',
    machine: 'virtual',
  },
  rigState: {
    at: '',
    power: 'mains',
    processorGovernor: null,
    loadAverage: 0,
    freeMemoryBytes: 1,
    busiest: [],
  },
  softwareVersion: '0.1.0',
} as const;

/** A trial's page with nothing around it. */
export function pageOf<Kind extends TrialKind>(
  trial: TrialRow<Kind>,
  more: Partial<TrialPage<Kind>> = {},
): TrialPage<Kind> {
  return {
    trial,
    samples: [],
    plan: null,
    annotation: null,
    attempts: [],
    rig: { name: 'Slipway', imported: null },
    files: [],
    checked: [],
    items: [],
    ...more,
  };
}

/** A trial as lists show it: a playback trial that dropped nothing. */
export const line: TrialLine = {
  id: 't1',
  kind: 'playback',
  name: 'TW_KITE_0031.mov',
  how: 'full scale',
  volumes: ['Shuttle SSD'],
  simulated: false,
  origin: 'measured',
  rig: { id: 'r', name: 'Slipway' },
  status: 'done',
  createdAt: '2026-03-01T18:00:00.000Z',
  href: '/trials/t1',
  grade: 'solid',
  answer: 'Plays in real time: 0 of 200 slots dropped.',
  values: { dropped: 0 },
  excluded: null,
  doubt: null,
};

/** A list of these trials, all on its first page. */
export function listPart(trials: readonly TrialLine[] = [], more: Partial<ListPart> = {}): ListPart {
  return {
    fixed: {},
    asked: {},
    first: { total: trials.length, page: 1, size: 50, trials },
    choices: { volumes: [], rigs: [{ id: 'r', name: 'Slipway' }] },
    ...more,
  };
}
