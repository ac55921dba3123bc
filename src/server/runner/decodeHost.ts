import type { DecodePass, FrameCosts, SeekCost, StreamsStep } from '@/core/decode/result';
import type { ClipFaults } from '@/core/media/faults';
import type { DecodeProgress, DecodeSpec, FromDecode, ToDecode } from '@/engine/decode/spec';
import { WatchedProcess, type BadEnd } from './watchedProcess';

export type DecodeEnd = { readonly kind: 'done' } | BadEnd;

export interface DecodeListener {
  onProgress(progress: DecodeProgress): void;
  onPass(pass: DecodePass): void;
  onCosts(costs: FrameCosts): void;
  onSeeks(seeks: readonly SeekCost[]): void;
  onMemory(bytes: number): void;
  onFaults(faults: ClipFaults): void;
  onStreams(step: StreamsStep): void;
}

/** A decode trial's process under watch; pinned to one core where the spec says so. */
export class DecodeHost extends WatchedProcess<FromDecode, ToDecode, DecodeEnd> {
  private frames = -1;

  constructor(
    path: string,
    spec: DecodeSpec,
    private readonly listener: DecodeListener,
    watchdogMs: number,
  ) {
    super(path, watchdogMs, 'frame', spec.cores === 'one');
    this.send({ type: 'start', spec });
  }

  protected askToCancel(): ToDecode {
    return { type: 'cancel' };
  }

  protected onMessage(message: FromDecode): void {
    if (message.type !== 'progress' || message.progress.frames !== this.frames) this.progressed();
    switch (message.type) {
      case 'progress':
        this.frames = message.progress.frames;
        this.listener.onProgress(message.progress);
        break;
      case 'pass':
        this.listener.onPass(message.pass);
        break;
      case 'costs':
        this.listener.onCosts(message.costs);
        break;
      case 'seeks':
        this.listener.onSeeks(message.seeks);
        break;
      case 'memory':
        this.listener.onMemory(message.bytes);
        break;
      case 'faults':
        this.listener.onFaults(message.faults);
        break;
      case 'streams':
        this.listener.onStreams(message.step);
        break;
      case 'failed':
        this.end = { kind: 'failed', message: message.message, detail: message.detail };
        break;
      case 'finished':
        this.end = message.cancelled ? { kind: 'cancelled' } : { kind: 'done' };
        break;
    }
  }
}
