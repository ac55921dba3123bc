import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { ExportSettings } from '@/core/kinds/export';
import { noTaskRecord, type TaskProgress, type TaskRecord } from '@/core/kinds/shared/task';
import type { Course } from '@/core/timeline/flatten';
import { lengthOf } from '@/core/timeline/model';
import type { ProcessEnd, WatchedProcess } from '@/server/runner/shared/watchedProcess';
import { exportWork } from '../task/exportWork';
import type { TaskSpec } from '../task/spec';
import type { TimelineSpec } from '../timeline/spec';
import { startProcess, workFolder } from './testTrial';

/** A quick export that a test changes in what it is about. */
const plainExport: ExportSettings = {
  codec: 'h264',
  picture: '8-bit 4:2:0',
  control: 'quality',
  quality: 24,
  megabits: null,
  rateClass: null,
  keyDistance: null,
  speed: 'fastest',
  sound: 'none',
  keep: true,
  likeness: false,
  threads: 0,
  warm: true,
};

export interface TaskRun {
  readonly end: ProcessEnd<'task'>;
  readonly record: TaskRecord;
  readonly progress: readonly TaskProgress[];
  /** The volume that it wrote to. */
  readonly volume: string;
}

let runs = 0;

/** Exports a timeline in a task process, or does what else a change of its specification asks for. */
export async function runExport(
  source: TimelineSpec,
  settings: Partial<ExportSettings> = {},
  change: Partial<TaskSpec> & { readonly course?: Partial<Course> } = {},
  during: (host: WatchedProcess<'task'>, progress: TaskProgress, volume: string) => void = () => undefined,
): Promise<TaskRun> {
  const volume = change.target?.path ?? join(await workFolder(), `target-${runs++}`);
  await mkdir(volume, { recursive: true });
  let record = noTaskRecord;
  const progress: TaskProgress[] = [];
  const { course, ...rest } = change;
  const host: WatchedProcess<'task'> = await startProcess(
    'task',
    {
      trialId: 'test',
      source: { ...source, course: { from: 0, slots: lengthOf(source.timeline), speed: 1, ...course } },
      ...exportWork({ ...plainExport, ...settings }),
      target: { path: volume, standIn: null },
      name: 'made',
      startTimecode: null,
      ...rest,
    },
    {
      progress: (message) => {
        progress.push(message.progress);
        during(host, message.progress, volume);
      },
      record: (message) => {
        record = { ...record, ...message.record };
      },
    },
  );
  return { end: await host.ended, record, progress, volume };
}
