import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { failureOf } from '../errors';
import { ViewerTap } from '../playback/viewerTap';
import type { TaskProgress } from '@/core/kinds/shared/task';
import { EncodeAheadRun } from './encodeAheadRun';
import { TaskRun } from './taskRun';
import type { FromTask, TaskSpec, ToTask } from './spec';

/** The process that performs one task, alone. It is told what to do over IPC and ends. It knows neither database nor server. */
let run: TaskRun | EncodeAheadRun | null = null;
let cancelled = false;
const viewer = new ViewerTap((frame, jpeg) => tell({ type: 'picture', frame, jpeg }));

function tell(message: FromTask): void {
  if (process.connected) process.send?.(message);
}

process.on('message', (message: ToTask) => {
  if (message.type === 'start') void perform(message.spec);
  else if (message.type === 'viewers') viewer.setViewers(message.count);
  else {
    cancelled = true;
    run?.stop();
  }
});
process.on('disconnect', () => process.exit(0));

async function perform(spec: TaskSpec): Promise<void> {
  Log.setLevel(AV_LOG_FATAL);
  process.env.SVT_LOG = '1'; // one encoder tells its settings otherwise
  try {
    const onProgress = (progress: TaskProgress) => tell({ type: 'progress', progress });
    run =
      spec.ahead && !spec.ahead.isMade
        ? new EncodeAheadRun(spec, onProgress)
        : new TaskRun(spec, {
            onProgress,
            onRecord: (record) => tell({ type: 'record', record }),
            onPicture: (frame, number, release) =>
              viewer.offer({ frame, width: frame.width, height: frame.height }, number, release),
            picturesDone: () => viewer.settled,
          });
    if (!cancelled) await run.run();
    await viewer.finish();
    tell({
      type: 'finished',
      stopped: cancelled ? 'cancelled' : null,
      peakMemoryBytes: process.resourceUsage().maxRSS * 1024,
    });
  } catch (error) {
    tell(failureOf(error, 'This task'));
  }
  process.disconnect?.();
}
