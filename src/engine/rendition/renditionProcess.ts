import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { failureOf } from '../errors';
import { RenditionRun } from './renditionRun';
import type { FromRendition, RenditionSpec, ToRendition } from './spec';

/** The process that makes one rendition. It is told what to do over IPC and ends. It knows neither database nor server. */
let run: RenditionRun | null = null;
let cancelled = false;

function tell(message: FromRendition): void {
  if (process.connected) process.send?.(message);
}

process.on('message', (message: ToRendition) => {
  if (message.type === 'start') void perform(message.spec);
  else {
    cancelled = true;
    run?.stop();
  }
});
process.on('disconnect', () => process.exit(0));

async function perform(spec: RenditionSpec): Promise<void> {
  Log.setLevel(AV_LOG_FATAL);
  try {
    run = new RenditionRun(spec, tell);
    const made = cancelled ? null : await run.run();
    // One that is cancelled while it is checked is made but not proved: it is not done.
    if (made === null || cancelled) tell({ type: 'finished', stopped: 'cancelled', work: null, check: null });
    else tell({ type: 'finished', stopped: null, work: made.work, check: made.check });
  } catch (error) {
    tell(failureOf(error, 'Making this rendition'));
  }
  process.disconnect?.();
}
