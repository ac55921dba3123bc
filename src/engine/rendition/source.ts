import { AVMEDIA_TYPE_VIDEO, FF_THREAD_FRAME, FF_THREAD_SLICE, type AVThreadType } from 'node-av/constants';
import { Codec, CodecContext, type FormatContext, type Stream } from 'node-av/lib';
import { check, EngineError } from '../errors';
import { MediaFile } from '../media/container';
import { Refusals } from '../codec/refusals';
import type { RenditionSpec } from './spec';

/** The file a rendition is made from, open for decoding. */
export class Source {
  readonly refusals: Refusals;

  private constructor(
    private readonly file: MediaFile,
    readonly stream: Stream,
    readonly decoder: CodecContext,
    readonly decoderName: string,
  ) {
    this.refusals = new Refusals(decoderName);
  }

  static async open({ sourcePath, threads }: Pick<RenditionSpec, 'sourcePath' | 'threads'>): Promise<Source> {
    const file = await MediaFile.open(sourcePath);
    if (!file) throw new EngineError('source-not-opened', { path: sourcePath });
    const { input } = file;
    await input.findStreamInfo();
    const stream = input.streams[input.findBestStream(AVMEDIA_TYPE_VIDEO)];
    const codec = stream && Codec.findDecoder(stream.codecpar.codecId);
    if (!stream || !codec) throw new EngineError('nothing-decodes', { path: sourcePath });
    const decoder = new CodecContext();
    decoder.allocContext3(codec);
    decoder.parametersToContext(stream.codecpar);
    decoder.pktTimebase = stream.timeBase;
    decoder.threadCount = threads;
    decoder.threadType = (FF_THREAD_FRAME | FF_THREAD_SLICE) as AVThreadType;
    check(await decoder.open2(codec), 'Opening the decoder');
    return new Source(file, stream, decoder, codec.name ?? 'unknown');
  }

  get input(): FormatContext {
    return this.file.input;
  }

  async close(): Promise<void> {
    this.decoder.freeContext();
    await this.file.close();
  }
}
