import { join } from 'node:path';
import { taskStages } from '@/core/tasks/pipeline';
import { summariseTask } from '@/core/tasks/taskSummary';
import { sideBySide } from '@/core/timeline/loads';
import { writeTestMedia } from './testMedia';
import { runExport } from './testTask';
import { specOf, testMedia } from './testTimelineRun';
import { workFolder } from './testTrial';

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
  const media = await testMedia(path);
  return specOf(sideBySide({ id: 'm', ref: media.ref }, 1), { m: media });
}

test.each(taskStages)(
  '%s that is held at every frame is found to have held the export back',
  async (stage) => {
    const source = await shortTimeline();
    const { record } = await runExport(source, {}, { slowed: { stage, us: 40_000 } });
    const summary = summariseTask(record, { total: 30, rate: source.timeline.rate })!;
    expect(summary.held).toMatchObject({ stage, alike: [] });
    // It is what the frames were held for that would have been saved.
    expect(summary.held!.free[stage] * (record.windows.endUs.at(-1)! / 1e6)).toBeCloseTo(30 * 0.04, 0);
    expect(summary.held!.agreement).toBeGreaterThan(0.9);
    expect(summary.held!.agreement).toBeLessThan(1.1);
  },
);
