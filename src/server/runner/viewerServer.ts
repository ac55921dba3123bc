import { fork, type ChildProcess } from 'node:child_process';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { Readable } from 'node:stream';
import { routes } from '@/core/asked/routes';
import { viewerRequest, type ViewerRequest } from '@/core/asked/viewer';
import { soundTimeline } from '@/core/timeline/schema';
import { idleState, type FromViewer, type ToViewer } from '@/engine/timeline/viewerSpec';
import { RequestError } from '../platform/errors';
import { refusals } from '../platform/words';
import { checked, parseJson, readText, refusalFor } from '../platform/http';
import { editFor, filesFor, specFor, usedMedia } from '../timelines/timelineMedia';

/** Each has a process of its own with its decoders: so many at a time, of as many pages. */
const mostViewers = 4;
const { most: mostBytes } = routes['POST /api/viewers/{id}'];
/** A viewer nobody looks at ends after this. */
const idleMs = 20_000;

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
    const { read, scale, cold } = request;
    const document = soundTimeline(request.document);
    const { media } = await filesFor(document, usedMedia(document), { read, volumeId: null });
    const key = JSON.stringify([read, cold, Object.entries(media).map(([id, { clipId }]) => [id, clipId])]);
    if (this.last && key === this.media) {
      const edited = await editFor(document, media);
      this.last = { type: 'open', spec: { ...this.last.spec, ...edited }, scale, cold };
      // Meanwhile the process may have ended, and its files with it.
      if (key === this.media) {
        this.send({ type: 'edit', ...edited });
        return;
      }
    }
    this.last = { type: 'open', spec: await specFor(document, media), scale, cold };
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
      state: { ...idleState, slot: this.lastSlot, run: 0, cold: this.last?.cold ?? false, problem },
    });
  }

  /** Ends the process; the next request, or `resume`, begins a new one. */
  pause(): void {
    this.end();
    this.tellProblem(refusals.measuring[1]);
  }

  resume(): void {
    if (!this.isWatched || !this.last) return;
    this.send(this.last);
    this.send({ type: 'show', slot: this.lastSlot, jump: 0 });
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

const reply = (response: ServerResponse, status: number, body: object) =>
  response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));

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
    const session = this.sessionOf(id);
    if (!session) {
      request.resume();
      const { status, ...told } = refusalFor(new RequestError('too-many-viewers', { most: mostViewers }));
      reply(response, status, told);
    } else if (request.method === 'GET') {
      session.watch(response);
      if (this.paused) session.tellProblem(refusals.measuring[1]);
    } else void this.command(session, request, response);
    return true;
  }

  /** The viewer of a page; null where as many as may be are looked at already. One that nobody looks at makes room. */
  private sessionOf(id: string): ViewerSession | null {
    const known = this.sessions.get(id);
    if (known) return known;
    if (this.sessions.size >= mostViewers) {
      const [left] = [...this.sessions]
        .filter(([, { isWatched }]) => !isWatched)
        .sort(([, a], [, b]) => a.lastUsedMs - b.lastUsedMs);
      if (!left) return null;
      left[1].close();
      this.sessions.delete(left[0]);
    }
    const session = new ViewerSession(this.processPath);
    this.sessions.set(id, session);
    return session;
  }

  private async command(
    session: ViewerSession,
    request: IncomingMessage,
    response: ServerResponse,
  ): Promise<void> {
    try {
      const text = await readText({ body: Readable.toWeb(request) as ReadableStream }, mostBytes);
      if (this.paused) throw new RequestError('measuring');
      await session.take(checked(parseJson(text), viewerRequest));
      reply(response, 200, { ok: true });
    } catch (error) {
      const { status, ...refused } = refusalFor(error);
      reply(response, status, refused);
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
