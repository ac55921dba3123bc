import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { failureOf } from '../errors';
import { DecodeRun } from './decodeRun';
import type { DecodeSpec, FromDecode, ToDecode } from './spec';
import { StreamsRun } from './streamsRun';

/**
 * The process that measures decoding alone. It is told what to do over IPC, sends
 * every pass as it ends, and ends. It knows neither database nor server. Whoever
 * starts it pins it where one core is wanted.
 */
let run: DecodeRun | StreamsRun | null = null;
let cancelled = false;

function tell(message: FromDecode): void {
  if (process.connected) process.send?.(message);
}

process.on('message', (message: ToDecode) => {
  if (message.type === 'start') void perform(message.spec);
  else {
    cancelled = true;
    run?.stop();
  }
});
process.on('disconnect', () => process.exit(0));

async function perform(spec: DecodeSpec): Promise<void> {
  Log.setLevel(AV_LOG_FATAL);
  try {
    const { settings } = spec;
    if (settings.kind === 'decode-streams') {
      const streams = new StreamsRun(spec, settings, tell);
      run = streams;
      if (!cancelled) await streams.run();
    } else {
      const decode = new DecodeRun(spec, tell);
      run = decode;
      if (!cancelled)
        await (settings.kind === 'decode-rate' ? decode.rate(settings) : decode.support(settings)).finally(
          () => {
            const { clipFaults: faults } = decode;
            if (faults) tell({ type: 'faults', faults });
          },
        );
    }
    tell({ type: 'finished', stopped: run.stopped || cancelled ? 'cancelled' : null });
  } catch (error) {
    tell(failureOf(error));
  }
  process.disconnect?.();
}
