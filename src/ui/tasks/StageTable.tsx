import { clsx } from 'clsx';
import type { HeldBack } from '@/core/tasks/heldBack';
import { taskStages, type TaskStage } from '@/core/tasks/pipeline';
import { sum, type TaskWindows } from '@/core/tasks/windows';
import { percent } from '../format';
import { stageStyles } from './words';

/** What each stage did, and what would have been saved with more of it: the stage that held the task back stands out. */
export function StageTable({ held, windows }: { held: HeldBack; windows: TaskWindows }) {
  const wallUs = Math.max(1, windows.endUs.at(-1) ?? 1);
  return (
    <div className="overflow-x-auto border bg-surface">
      <table aria-label="What held it back" className="w-full text-sm">
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            {[
              'Stage',
              'Had a frame in hand',
              'Cores, mean',
              'Saved if twice as fast',
              'Saved if it took nothing',
            ].map((name) => (
              <th key={name} scope="col" className="px-3 py-1.5 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {taskStages.map((stage) => (
            <tr
              key={stage}
              aria-current={stage === held.stage ? 'true' : undefined}
              className="border-b last:border-b-0 aria-[current]:bg-raised aria-[current]:font-semibold"
            >
              <th
                scope="row"
                className={clsx('px-3 py-1.5 text-left', stage !== held.stage && 'font-normal')}
              >
                <span
                  aria-hidden
                  className="mr-2 inline-block h-3 w-3 align-[-1px]"
                  style={{ background: stageStyles[stage].colour }}
                />
                {stageStyles[stage].word}
                {stage === held.stage && <span className="ml-2 text-signal-text">held it back</span>}
              </th>
              <td className="figure px-3 py-1.5">
                {percent(sum(windows.stages[stage].busyUs) / wallUs, 0)}{' '}
                <span className="text-muted">of the time</span>
              </td>
              <td className="figure px-3 py-1.5">
                {(sum(windows.stages[stage].coreUs) / wallUs).toFixed(2)}
              </td>
              <Saved share={held.twice[stage]} stage={stage} />
              <Saved share={held.free[stage]} stage={stage} />
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Saved({ share, stage }: { share: number; stage: TaskStage }) {
  return (
    <td className="px-3 py-1.5">
      <span className="flex items-center gap-2">
        <span className="figure w-12 text-right">{percent(share, 0)}</span>
        <span aria-hidden className="block h-2 w-32 bg-raised">
          <span
            className="block h-2"
            style={{ width: `${Math.min(1, share) * 100}%`, background: stageStyles[stage].colour }}
          />
        </span>
      </span>
    </td>
  );
}
