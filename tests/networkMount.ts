import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { accessSync, constants } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { createServer, type AddressInfo, type Socket } from 'node:net';
import type { Readable, Writable } from 'node:stream';
import { promisify } from 'node:util';

const run = promisify(execFile);
const fileServer = '/usr/lib/openssh/sftp-server';

/** A folder that is mounted over a network: a file server that listens on loopback alone, behind a link of a known rate. */
export interface NetworkMount {
  /** Where it is mounted. */
  readonly folder: string;
  /** Cuts the link, as a cable that is pulled. */
  pull(): void;
  /** Puts everything away. */
  end(): Promise<void>;
}

/** The server as the mount table names it. */
export const mountedServer = '127.0.0.1';

/** Why this host cannot mount a folder over a network; null where it may. */
export async function whyNoMounts(): Promise<string | null> {
  for (const command of ['sshfs', 'fusermount3', fileServer])
    if (
      !(await run('sh', ['-c', `command -v ${command}`]).then(
        () => true,
        () => false,
      ))
    )
      return `${command} is not installed`;
  try {
    accessSync('/dev/fuse', constants.R_OK | constants.W_OK);
  } catch {
    return 'this host has no /dev/fuse that this user may use';
  }
  return null;
}

/**
 * Starts a file server on a port of its own and mounts one of this host's folders from it.
 * @param point where; made where it is not there @param bytesPerSecond what the link lets through, each way
 * @throws when the host refuses the mount
 */
export async function mountOverNetwork(
  source: string,
  point: string,
  bytesPerSecond: number,
): Promise<NetworkMount> {
  const server = await startServer(bytesPerSecond);
  const end = async () => {
    server.close();
    await run('fusermount3', ['-u', '-z', point]).catch(() => undefined);
  };
  await mkdir(point, { recursive: true });
  try {
    await run('sshfs', [`${mountedServer}:${source}`, point, '-o', `directport=${server.port}`], {
      timeout: 20_000,
    });
  } catch (error) {
    await end();
    throw error;
  }
  return { folder: point, pull: () => server.close(), end };
}

/** A server of the open file transfer protocol: each connection is answered by a process of Debian's package, at the link's rate. */
async function startServer(bytesPerSecond: number): Promise<{ port: number; close: () => void }> {
  const open = new Set<{ readonly socket: Socket; readonly child: ChildProcess }>();
  const server = createServer((socket) => {
    const child = spawn(fileServer, [], { stdio: ['pipe', 'pipe', 'ignore'] });
    const link = { socket, child };
    open.add(link);
    const ended = () => {
      open.delete(link);
      socket.destroy();
      child.kill();
    };
    socket.setNoDelay(true);
    pump(socket, child.stdin, bytesPerSecond);
    pump(child.stdout, socket, bytesPerSecond);
    for (const stream of [socket, child.stdin, child.stdout]) stream.on('error', ended);
    socket.on('close', ended);
    child.on('exit', ended);
  });
  await new Promise<void>((resolve) => {
    server.listen(0, mountedServer, resolve);
  });
  return {
    port: (server.address() as AddressInfo).port,
    close: () => {
      server.close();
      for (const { socket } of open) socket.destroy();
    },
  };
}

/** Passes bytes on at a rate. */
function pump(from: Readable, into: Writable, bytesPerSecond: number): void {
  let freeAt = performance.now();
  from.on('data', (bytes: Buffer) => {
    freeAt = Math.max(freeAt, performance.now()) + (bytes.length / bytesPerSecond) * 1_000;
    into.write(bytes);
    const waitMs = freeAt - performance.now();
    if (waitMs < 2) return;
    from.pause();
    setTimeout(() => from.resume(), waitMs);
  });
}
