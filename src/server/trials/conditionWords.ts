import { quantity } from '@/core/format';
import { trialConditions } from '@/core/kinds/kinds';
import type { RigConditions } from '@/core/kinds/shared/conditions';
import type { ResultUnder } from '@/db/queries/results';

/** Conditions that people compare by, those asked about most first; all others stand behind them. */
export const conditionOrder = [
  'Measured in',
  'Volume',
  'Device',
  'Form',
  'Playback scale',
  'Footage',
  'Content',
  'Format',
  'Rig',
  'Test',
] as const;

/** Under what a trial was made, by name and in words: all that must be equal for another to compare with it. */
export function conditionsOf(row: ResultUnder, rigName: string): Record<string, string> {
  return { Rig: rigName, ...trialConditions(row), ...rigConditions(row.conditions) };
}

function rigConditions(conditions: RigConditions | null): Record<string, string> {
  if (!conditions) return {};
  const { rig, rigState, softwareVersion } = conditions;
  return {
    Processor: `${rig.processor}, ${rig.logicalCores} cores`,
    Memory: quantity(rig.memoryBytes / 2 ** 30, 'GiB', 1),
    Graphics: rig.graphics.join(', ') || 'none',
    System: `${rig.system}, kernel ${rig.kernel}`,
    Power: rigState.power,
    Governor: rigState.processorGovernor ?? 'not reported',
    Navvy: softwareVersion,
  };
}
