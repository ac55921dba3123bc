import { join } from 'node:path';
import { taskStages, type TaskStage } from '@/core/tasks/pipeline';
import { summariseTask } from '@/core/tasks/taskSummary';
import { sum } from '@/core/tasks/windows';
import { writeTestMedia } from '../testing/testMedia';
import { runExport } from '../testing/testTask';
import { streamsOf, testMedia } from '../testing/testTimelineRun';
import { workFolder } from '../testing/testTrial';

async function shortTimeline() {
  const path = join(await workFolder(), 'export', 'limits.mov');
  await writeTestMedia(path, {
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    width: 256,
    height: 144,
    frames: 30,
    options: { preset: 'ultrafast' },
  });
  return streamsOf(await testMedia(path));
}

test.each(taskStages)(
  '%s that is held at every frame is found to have held the export back',
  async (stage) => {
    const source = await shortTimeline();
    const heldUs = 100_000;
    const { record } = await runExport(source, {}, { slowed: { stage, us: heldUs } });
    const summary = summariseTask(record, { total: 30, rate: source.timeline.rate })!;
    expect(summary.held).toMatchObject({ stage, alike: [] });
    // What the frames were held for would have been saved, but for what the others then take; and by another stage no more than it took.
    const heldAllUs = 30 * heldUs;
    const savedUs = (of: TaskStage) => summary.held!.free[of] * record.windows.endUs.at(-1)!;
    const others = taskStages.filter((other) => other !== stage);
    const busyUs = (of: TaskStage) => sum(record.windows.stages[of].busyUs);
    const othersUs = sum(others.map(busyUs));
    expect(savedUs(stage)).toBeGreaterThan(0.9 * heldAllUs - othersUs);
    expect(savedUs(stage)).toBeGreaterThan(0.5 * heldAllUs);
    for (const other of others) expect(savedUs(other)).toBeLessThan(0.1 * heldAllUs + busyUs(other));
    expect(summary.held!.agreement).toBeGreaterThan(0.9);
    expect(summary.held!.agreement).toBeLessThan(1.1);
  },
);
