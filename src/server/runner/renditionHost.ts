import type { FrameCheck } from '@/core/rendition/frameCheck';
import type {
  FromRendition,
  RenditionProgress,
  RenditionSpec,
  RenditionWork,
  ToRendition,
} from '@/engine/rendition/spec';
import { WatchedProcess, type BadEnd } from './watchedProcess';

export type RenditionEnd =
  { readonly kind: 'done'; readonly work: RenditionWork; readonly check: FrameCheck | null } | BadEnd;

/** The process of one rendition under watch. */
export class RenditionHost extends WatchedProcess<FromRendition, ToRendition, RenditionEnd> {
  private last = '';

  constructor(
    path: string,
    spec: RenditionSpec,
    private readonly onProgress: (progress: RenditionProgress) => void,
    watchdogMs: number,
  ) {
    super(path, watchdogMs, 'frame');
    this.send({ type: 'start', spec });
  }

  protected askToCancel(): ToRendition {
    return { type: 'cancel' };
  }

  protected onMessage(message: FromRendition): void {
    switch (message.type) {
      case 'progress': {
        const now = `${message.progress.phase} ${message.progress.frames}`;
        if (now !== this.last) this.progressed();
        this.last = now;
        this.onProgress(message.progress);
        break;
      }
      case 'failed':
        this.end = { kind: 'failed', message: message.message, detail: message.detail };
        break;
      case 'finished':
        this.end =
          message.work && !message.cancelled
            ? { kind: 'done', work: message.work, check: message.check }
            : { kind: 'cancelled' };
        break;
    }
  }
}
