import { fixed, percent } from '@/core/format';
import type { HeldBack } from '@/core/tasks/heldBack';
import { taskStages } from '@/core/tasks/pipeline';
import { sum, type TaskWindows } from '@/core/tasks/windows';
import { HeldTable } from './HeldTable';
import { stageStyles } from './words';

/** What each stage did, and what would have been saved with more of it. */
export function StageTable({ held, windows }: { held: HeldBack; windows: TaskWindows }) {
  const wallUs = Math.max(1, windows.endUs.at(-1) ?? 1);
  return (
    <HeldTable
      first="Stage"
      heads={['Had a frame in hand', 'Cores, mean']}
      held={held.stage}
      rows={taskStages.map((stage) => ({
        id: stage,
        name: stageStyles[stage].word,
        colour: stageStyles[stage].colour,
        twice: held.twice[stage],
        free: held.free[stage],
        cells: [
          <>
            {percent(sum(windows.stages[stage].busyUs) / wallUs, 0)}{' '}
            <span className="text-muted">of the time</span>
          </>,
          fixed(sum(windows.stages[stage].coreUs) / wallUs, 2),
        ],
      }))}
    />
  );
}
