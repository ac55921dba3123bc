import { fork, type ChildProcess } from 'node:child_process';
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Timeline } from '@/core/timeline/model';
import { failureOf } from '@/engine/errors';
import type { PlaybackScale } from '@/engine/playback/spec';
import type { FromViewer, ToViewer, ViewerCommand } from '@/engine/timeline/viewerSpec';
import { editFor, filesFor, specFor, usedMedia } from '../timelineMedia';

/** What a page sends its viewer: a command, or a document to look at. */
export type ViewerRequest =
  | ViewerCommand
  | {
      readonly type: 'document';
      readonly document: Timeline;
      readonly read: 'originals' | 'proxies';
      readonly scale: PlaybackScale;
    };

/** A viewer nobody looks at ends after this. */
const idleMs = 20_000;
const measuring = 'A trial is running. The viewer waits, because it would be measured with it.';

/** One page's viewer: its process, and the page's stream of pictures. */
class ViewerSession {
  private child: ChildProcess | null = null;
  private readonly streams = new Set<ServerResponse>();
  private media = '';
  private last: Extract<ToViewer, { type: 'open' }> | null = null;
  private lastSlot = 0;
  lastUsedMs = Date.now();

  constructor(private readonly path: string) {}

  get isWatched(): boolean {
    return this.streams.size > 0;
  }

  watch(response: ServerResponse): void {
    response.writeHead(200, { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' });
    response.flushHeaders();
    this.streams.add(response);
    response.on('close', () => {
      this.streams.delete(response);
      this.lastUsedMs = Date.now();
    });
  }

  async take(request: ViewerRequest): Promise<void> {
    this.lastUsedMs = Date.now();
    if (request.type !== 'document') {
      if (request.type === 'show') this.lastSlot = request.slot;
      this.send(request);
      return;
    }
    const { document, read, scale } = request;
    const { media } = await filesFor(document, usedMedia(document), { read, volumeId: null });
    const key = JSON.stringify([read, Object.entries(media).map(([id, { clipId }]) => [id, clipId])]);
    if (this.last && key === this.media) {
      const edited = await editFor(document, media);
      this.last = { type: 'open', spec: { ...this.last.spec, ...edited }, scale };
      // Meanwhile the process may have ended, and its files with it.
      if (key === this.media) {
        this.send({ type: 'edit', ...edited });
        return;
      }
    }
    this.last = { type: 'open', spec: await specFor(document, media), scale };
    this.media = key;
    this.send(this.last);
  }

  private send(message: ToViewer): void {
    if (!this.child) {
      this.child = this.start();
      // A process that ended is begun again with what it showed.
      if (message.type !== 'open' && this.last) this.child.send(this.last, () => undefined);
    }
    this.child.send(message, () => undefined);
  }

  private start(): ChildProcess {
    const child = fork(this.path, [], {
      serialization: 'advanced',
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    });
    child.on('message', (message: FromViewer) => {
      this.lastSlot = message.state.slot;
      this.emit(message);
    });
    child.on('error', () => undefined);
    child.on('exit', () => {
      if (this.child !== child) return;
      this.child = null;
      this.media = '';
      this.tellProblem('The viewer ended unexpectedly. Move the playhead to start it again.');
    });
    return child;
  }

  /** A record: [bytes of state: uint32][bytes of picture: uint32][state as JSON][JPEG], little-endian. A page that is behind gets no picture. */
  private emit({ state, jpeg }: Pick<FromViewer, 'state' | 'jpeg'>): void {
    const json = Buffer.from(JSON.stringify(state));
    for (const response of this.streams) {
      const picture = response.writableLength === 0 ? jpeg : null;
      const head = Buffer.alloc(8);
      head.writeUInt32LE(json.length, 0);
      head.writeUInt32LE(picture?.byteLength ?? 0, 4);
      response.write(Buffer.concat(picture ? [head, json, picture] : [head, json]));
    }
  }

  tellProblem(problem: string): void {
    this.emit({
      jpeg: null,
      state: {
        slot: this.lastSlot,
        playing: false,
        run: 0,
        speed: 0,
        shown: 0,
        dropped: 0,
        achievedRate: 0,
        buffers: { read: 0, decoded: 0, ready: 0 },
        tookMs: null,
        problem,
        remark: null,
      },
    });
  }

  /** Ends the process; the next request, or `resume`, begins a new one. */
  pause(): void {
    this.end();
    this.tellProblem(measuring);
  }

  resume(): void {
    if (!this.isWatched || !this.last) return;
    this.send(this.last);
    this.send({ type: 'show', slot: this.lastSlot });
    this.media = '';
  }

  private end(): void {
    const { child } = this;
    this.child = null;
    this.media = '';
    child?.kill('SIGKILL');
  }

  /** Of its process; null while there is none. */
  get pid(): number | null {
    return this.child?.pid ?? null;
  }

  close(): void {
    this.end();
    for (const response of this.streams) response.end();
  }
}

/** Viewers of open pages. They wait while something is measured. */
export class ViewerServer {
  private readonly sessions = new Map<string, ViewerSession>();
  private paused = false;

  constructor(private readonly processPath: string) {
    setInterval(() => {
      for (const [id, session] of this.sessions)
        if (!session.isWatched && Date.now() - session.lastUsedMs > idleMs) {
          session.close();
          this.sessions.delete(id);
        }
    }, 5_000).unref();
  }

  /** Answers GET and POST of /viewers/ID. Returns whether the request was one. */
  answer(request: IncomingMessage, response: ServerResponse): boolean {
    const id = /^\/viewers\/([\w-]{1,64})$/.exec(request.url ?? '')?.[1];
    if (!id) return false;
    const session = this.sessions.get(id) ?? new ViewerSession(this.processPath);
    this.sessions.set(id, session);
    if (request.method === 'GET') {
      session.watch(response);
      if (this.paused) session.tellProblem(measuring);
    } else void this.command(session, request, response);
    return true;
  }

  private async command(
    session: ViewerSession,
    request: IncomingMessage,
    response: ServerResponse,
  ): Promise<void> {
    const reply = (status: number, body: object) =>
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    try {
      const parts: Buffer[] = [];
      for await (const part of request) parts.push(part as Buffer);
      if (this.paused) {
        reply(409, { message: measuring, field: null });
        return;
      }
      await session.take(JSON.parse(Buffer.concat(parts).toString('utf8')) as ViewerRequest);
      reply(200, { ok: true });
    } catch (error) {
      reply(500, { message: failureOf(error).message, field: null });
    }
  }

  /** Processes of all viewers: Navvy's own work, not that of others. */
  get pids(): number[] {
    return [...this.sessions.values()].flatMap(({ pid }) => pid ?? []);
  }

  pause(): void {
    this.paused = true;
    for (const session of this.sessions.values()) session.pause();
  }

  resume(): void {
    this.paused = false;
    for (const session of this.sessions.values()) session.resume();
  }

  close(): void {
    for (const session of this.sessions.values()) session.close();
  }
}
