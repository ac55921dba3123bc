import type { SoakProgress } from '@/core/kinds/soak';
import type { TrialKind } from '@/core/kinds/kinds';
import { listen, notify, type Listening } from '@/db/notifications';
import type { TrialStatus } from '@/db/kinds';
import type { LiveCounters } from '@/engine/playback/spec';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';
import type { DecodeProgress } from '@/core/kinds/shared/decode';
import type { TaskProgress } from '@/core/kinds/shared/task';
import type { StorageProgress } from '@/core/kinds/shared/storage';
import type { RenditionProgressNote } from '@/core/kinds/renditions';

/** How far a trial is: what its kind tells while it runs, with the time left. */
export type LiveProgress =
  | { readonly counters: LiveCounters; readonly msLeft: number | null }
  /** Pictures that are decoded before a run, for a made-up device. */
  | { readonly beforehand: { readonly done: number; readonly all: number }; readonly msLeft: null }
  | StorageProgress
  | DecodeProgress
  | TimelineTrialProgress
  | RenditionProgressNote
  | TaskProgress
  | SoakProgress;

/** What the runner tells the pages as it happens. Kept small: one event fits a database notification. */
export type NavvyEvent =
  | { readonly type: 'trial-progress'; readonly trialId: string; readonly progress: LiveProgress }
  /** Newly saved slots: one letter each, see `stateLetters`. */
  | { readonly type: 'trial-slots'; readonly trialId: string; readonly from: number; readonly states: string }
  | {
      readonly type: 'trial-status';
      readonly trialId: string;
      readonly kind: TrialKind;
      readonly volumeIds: readonly string[];
      readonly status: TrialStatus;
    }
  /** A series or matrix, or one of its runs, has changed. */
  | { readonly type: 'plan'; readonly planId: string }
  /** Clips have changed otherwise than by a scan. */
  | { readonly type: 'clips' }
  | { readonly type: 'devices' }
  /** To the runner, not to pages. */
  | { readonly type: 'cancel' | 'pause' | 'skip'; readonly trialId: string }
  | {
      readonly type: 'load';
      readonly othersLoad: number;
      readonly trialLoad: number;
      readonly freeMemoryBytes: number;
      /** What passes the interfaces to the servers of the trial's volumes, and what the trial reads and writes; null where it reads over no network. Absent: from a runner that does not tell it. */
      readonly link?: LinkNow | null;
    }
  | {
      readonly type: 'volume';
      readonly volumeId: string;
      readonly done: number;
      readonly total: number;
      readonly finished: boolean;
    };

/** @see LinkSummary */
export interface LinkNow {
  readonly names: string;
  readonly linkBytesPerSecond: number;
  readonly trialMovedBytesPerSecond: number | null;
}

/** Letters of `slotState` values in `trial-slots` events. */
export const stateLetters = 'psldw';

/** Tells every listening process. Events are news, not records: what matters is saved before. */
export async function publish(event: NavvyEvent): Promise<void> {
  await notify(JSON.stringify(event));
}

/** Tells what may be lost: pages fetch what is saved when they come back. */
export function announce(event: NavvyEvent): void {
  publish(event).catch(() => undefined);
}

type Listener = (event: NavvyEvent) => void;

/** One database connection that listens for all of a process, and comes back when it breaks. */
class EventHub {
  private readonly listeners = new Set<Listener>();
  private listening: Listening | null = null;
  private connecting = false;

  subscribe(listener: Listener): () => void {
    this.listeners.add(listener);
    void this.connect();
    return () => {
      this.listeners.delete(listener);
    };
  }

  async close(): Promise<void> {
    this.listeners.clear();
    await this.listening?.close();
  }

  private async connect(): Promise<void> {
    if (this.listening || this.connecting) return;
    this.connecting = true;
    const lost = () => {
      this.listening = null;
      if (this.listeners.size > 0) setTimeout(() => void this.connect(), 1_000).unref();
    };
    try {
      this.listening = await listen((text) => this.tell(JSON.parse(text) as NavvyEvent), lost);
    } catch {
      // It was heard of as lost: the next attempt is on its way.
    } finally {
      this.connecting = false;
    }
  }

  private tell(event: NavvyEvent): void {
    for (const listener of this.listeners) listener(event);
  }
}

const holder = globalThis as typeof globalThis & { navvyEventHub?: EventHub | undefined };

/** Calls `listener` for every event until the returned function is called. Survives a database restart. */
export function subscribe(listener: Listener): () => void {
  holder.navvyEventHub ??= new EventHub();
  return holder.navvyEventHub.subscribe(listener);
}

/** Stops listening; the next subscription connects again. */
export async function closeEvents(): Promise<void> {
  const { navvyEventHub } = holder;
  holder.navvyEventHub = undefined;
  await navvyEventHub?.close();
}
