import { availableParallelism } from 'node:os';
import { avGetPixFmtFromName, Rational } from 'node-av/lib';
import { deviceName } from '@/core/decode/standIns';
import { taskEncoder, type TaskEncoder } from '@/core/tasks/encodeDevices';
import type { VideoEncoderChoice } from '../codec/videoEncoder';
import { EngineError } from '../errors';
import { colourOf } from './colour';
import type { TaskSpec } from './spec';

/** The encoder of a task. @throws EngineError where its device has none for what is asked: nothing is handed to software unannounced */
export function encoderOf({
  output,
  source,
  device = null,
}: Pick<TaskSpec, 'output' | 'source' | 'device'>): TaskEncoder {
  const encoder = taskEncoder(output, source.timeline.rate, device);
  if (!encoder) throw new EngineError('device-has-no-encoder', { device: deviceName(device) });
  return encoder;
}

/** All that a task's encoder is told. @param flags as its container wants them */
export function encoderChoice(
  { source: { timeline }, threads }: Pick<TaskSpec, 'source' | 'threads'>,
  { encoder, options, keyDistance, pixelFormat }: TaskEncoder,
  flags: VideoEncoderChoice['flags'],
): VideoEncoderChoice {
  const { width, height, rate } = timeline;
  return {
    encoder,
    options,
    keyDistance,
    width,
    height,
    pixelFormat: avGetPixFmtFromName(pixelFormat),
    timeBase: new Rational(rate.den, rate.num),
    rate: new Rational(rate.num, rate.den),
    sampleAspect: new Rational(1, 1),
    colour: colourOf(pixelFormat, height),
    threads: threads === 0 ? availableParallelism() : threads,
    flags,
  };
}
