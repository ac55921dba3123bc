import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { loopbackHosts } from '@/core/asked/guard';
import { refused } from '../guarded';

/**
 * Serves live pictures of the running trial on a loopback port: a response that
 * stays open, of records [length: uint32][frame: uint32][JPEG], little-endian.
 */
export class PictureServer {
  private server: Server | null = null;
  private readonly viewers = new Map<string, Set<ServerResponse>>();
  /** @param other answers what is no picture of a trial; returns whether it did */
  constructor(
    private readonly other: (request: IncomingMessage, response: ServerResponse) => boolean = () => false,
  ) {}

  onViewersChanged: (trialId: string, count: number) => void = () => undefined;

  async listen(): Promise<number> {
    const hosts = new Set<string>();
    this.server = createServer((request, response) => {
      if (refused(request, response, hosts, () => false)) return;
      const trialId = /^\/pictures\/([\w-]+)$/.exec(request.url ?? '')?.[1];
      if (!trialId) {
        if (this.other(request, response)) return;
        response.writeHead(404).end();
        return;
      }
      response.writeHead(200, { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' });
      response.flushHeaders();
      this.change(trialId, (set) => set.add(response));
      response.on('close', () => this.change(trialId, (set) => set.delete(response)));
    });
    const { server } = this;
    await new Promise<void>((resolve) => {
      server.listen(0, '127.0.0.1', resolve);
    });
    const { port } = server.address() as AddressInfo;
    loopbackHosts(port).forEach((host) => hosts.add(host));
    return port;
  }

  /** Ends all responses and frees the port. */
  close(): void {
    for (const trialId of [...this.viewers.keys()]) this.end(trialId);
    this.server?.close();
    this.server?.closeAllConnections();
  }

  viewerCount(trialId: string): number {
    return this.viewers.get(trialId)?.size ?? 0;
  }

  /** Sends a picture to all who watch the trial; one who has not taken the last yet is passed over. */
  send(trialId: string, frame: number, jpeg: Uint8Array): void {
    const head = Buffer.alloc(8);
    head.writeUInt32LE(jpeg.byteLength, 0);
    head.writeUInt32LE(frame, 4);
    for (const response of this.viewers.get(trialId) ?? []) {
      if (response.writableLength === 0) response.write(Buffer.concat([head, jpeg]));
    }
  }

  /** Ends all responses of a trial. */
  end(trialId: string): void {
    for (const response of this.viewers.get(trialId) ?? []) response.end();
    this.viewers.delete(trialId);
  }

  private change(trialId: string, edit: (set: Set<ServerResponse>) => void): void {
    const set = this.viewers.get(trialId) ?? new Set();
    edit(set);
    this.viewers.set(trialId, set);
    this.onViewersChanged(trialId, set.size);
  }
}
