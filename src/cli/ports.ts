import { createServer } from 'node:net';

/** The first free loopback port from `wanted` on. */
export async function freePort(wanted: number): Promise<number> {
  for (let port = wanted; port < wanted + 200; port++) {
    const free = await new Promise<boolean>((resolve) => {
      const server = createServer();
      server.once('error', () => resolve(false));
      server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
    });
    if (free) return port;
  }
  throw new Error(`No free port between ${wanted} and ${wanted + 200}`);
}
