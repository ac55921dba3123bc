import { createSocket } from 'node:dgram';
import { lookup } from 'node:dns/promises';
import { networkInterfaces } from 'node:os';
import { loopback } from './activity';

/** Any port does: nothing is sent. */
const anyPort = 9;

/** The name or address of a server as a mount table has it: "editor@store.example", "[::1]", "127.0.0.1". */
export function hostOf(server: string): string {
  return server.replace(/^[^@]*@/, '').replace(/^\[(.*)\]$/, '$1');
}

/**
 * The network interface over which this host speaks to a server: a datagram socket is joined to it, which sends nothing,
 * and the system says from which address of its own it would speak. Null where the server has no address, or no way leads to it.
 * @param server as a mount table has it
 */
export async function interfaceTo(server: string): Promise<string | null> {
  const found = await lookup(hostOf(server)).catch(() => null);
  if (!found) return null;
  const own = Object.entries(networkInterfaces()).flatMap(([name, places]) =>
    (places ?? []).map(({ address }) => ({ name, address })),
  );
  // What speaks to an address of its own stays inside, whichever interface has it.
  if (own.some(({ address }) => address === found.address)) return loopback;
  const speaksFrom = await sourceAddress(found.address, found.family === 6);
  return own.find(({ address }) => address === speaksFrom)?.name ?? null;
}

async function sourceAddress(address: string, six: boolean): Promise<string | null> {
  const socket = createSocket(six ? 'udp6' : 'udp4');
  try {
    return await new Promise((resolve) => {
      socket.once('error', () => resolve(null));
      socket.connect(anyPort, address, () => resolve(socket.address().address));
    });
  } finally {
    socket.close();
  }
}
