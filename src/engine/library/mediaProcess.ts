import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { listDevices } from '../codec/devices';
import { EngineError } from '../errors';
import type { FromMedia, MediaJob, MediaResults, ToMedia } from './mediaSpec';
import { makePreview } from './preview';
import { probeClip } from '../media/probe';

/**
 * The process that reads media files for the library. It stands between damaged
 * files and the runner: whatever a file does to a demultiplexer, a decoder or a
 * driver, it happens here, and another process takes over.
 */
function tell(message: FromMedia): void {
  if (process.connected) process.send?.(message);
}

process.on('message', ({ turn, job }: ToMedia) => {
  perform(job, () => tell({ turn, type: 'progress' })).then(
    (result) => tell({ turn, type: 'done', result }),
    (error: unknown) =>
      tell({
        turn,
        type: 'failed',
        expected: error instanceof EngineError,
        message: error instanceof Error ? error.message : String(error),
      }),
  );
});
process.on('disconnect', () => process.exit(0));

Log.setLevel(AV_LOG_FATAL);
tell({ turn: 0, type: 'up' });

function perform(job: MediaJob, onProgress: () => void): Promise<MediaResults[keyof MediaResults]> {
  switch (job.kind) {
    case 'probe':
      return probeClip(job.path, onProgress);
    case 'preview':
      return makePreview(job.source, job.pixelAspect, onProgress);
    case 'devices':
      return listDevices();
  }
}
