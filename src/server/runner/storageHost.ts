import type { ColdProof } from '@/engine/media/coldFile';
import type {
  CopiedFile,
  CopyResult,
  FromStorage,
  StorageProgress,
  StorageSpec,
  ToStorage,
  WriteWay,
} from '@/engine/storage/spec';
import { WatchedProcess, type BadEnd } from './watchedProcess';

/** How a storage process ended. `copy` holds a copy's result, also a part of one. */
export type StorageEnd = { readonly kind: 'done' | 'paused'; readonly copy: CopyResult | null } | BadEnd;

export interface StorageListener {
  onPrepared(cold: ColdProof | null, writes: WriteWay | null): void;
  onBlocks(batch: { from: number; count: number; data: Uint8Array }): void;
  onStep(streams: number): void;
  onCopied(file: CopiedFile): void;
  onProgress(progress: StorageProgress): void;
}

/** A storage trial's or copy's process under watch. */
export class StorageHost extends WatchedProcess<FromStorage, ToStorage, StorageEnd> {
  private moved = -1;
  /** What a cancelled copy had done. */
  partOfCopy: CopyResult | null = null;

  constructor(
    path: string,
    spec: StorageSpec,
    private readonly listener: StorageListener,
    watchdogMs: number,
  ) {
    super(path, watchdogMs, 'block');
    this.send({ type: 'start', spec });
  }

  pause(): void {
    this.send({ type: 'pause' });
  }

  protected askToCancel(): ToStorage {
    return { type: 'cancel' };
  }

  protected onMessage(message: FromStorage): void {
    switch (message.type) {
      case 'prepared':
        this.progressed();
        this.listener.onPrepared(message.cold, message.writes);
        break;
      case 'blocks':
        this.progressed();
        this.listener.onBlocks(message);
        break;
      case 'step':
        this.progressed();
        this.listener.onStep(message.streams);
        break;
      case 'copied':
        this.progressed();
        this.listener.onCopied(message.file);
        break;
      case 'progress':
        this.onProgress(message.progress);
        break;
      case 'failed':
        this.end = { kind: 'failed', message: message.message, detail: message.detail };
        break;
      case 'finished':
        this.partOfCopy = message.copy;
        this.end =
          message.stopped === 'cancelled'
            ? { kind: 'cancelled' }
            : { kind: message.stopped ?? 'done', copy: message.copy };
        break;
    }
  }

  /** Time passes without a block too; only bytes are progress. */
  private onProgress(progress: StorageProgress): void {
    if (progress.moved !== this.moved) this.progressed();
    this.moved = progress.moved;
    this.listener.onProgress(progress);
  }
}
