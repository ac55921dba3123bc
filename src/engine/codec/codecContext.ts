import { CodecContext, CodecParameters, type Codec } from 'node-av/lib';

/** A codec's context that is told what its container says of a stream, not opened yet. */
export function contextWith(codec: Codec, told: Partial<CodecParameters>): CodecContext {
  const parameters = new CodecParameters();
  parameters.alloc();
  Object.assign(parameters, told);
  const context = new CodecContext();
  context.allocContext3(codec);
  context.parametersToContext(parameters);
  parameters.free();
  return context;
}
