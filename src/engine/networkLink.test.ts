import { once } from 'node:events';
import { networkInterfaces } from 'node:os';
import { createServer, connect, type AddressInfo } from 'node:net';
import { carriedBytes, linkBytes, loopback } from './activity';
import { hostOf, interfaceTo } from './networkLink';

test.each([
  ['editor@store.example', 'store.example'],
  ['store', 'store'],
  ['[::1]', '::1'],
  ['editor@[fe80::2]', 'fe80::2'],
])('the mount table’s server %s is the host %s', (server, host) => expect(hostOf(server)).toBe(host));

test('a server on this host is spoken to over the loopback, by whatever address; one that is nowhere by none', async () => {
  expect(await interfaceTo('127.0.0.1')).toBe(loopback);
  expect(await interfaceTo('editor@localhost')).toBe(loopback);
  const own = Object.values(networkInterfaces()).flatMap((places) =>
    (places ?? []).filter(({ family }) => family === 'IPv4').map(({ address }) => address),
  );
  for (const address of own) expect(await interfaceTo(address)).toBe(loopback);
  expect(await interfaceTo('no-such-store.invalid')).toBeNull();
});

test('interfaces are told as they are named; the loopback, which counts each byte twice, once', () => {
  const told =
    'Inter-|   Receive   |  Transmit\n face |bytes    packets errs drop fifo frame compressed multicast|bytes\n    lo: 999 1 0 0 0 0 0 0 999 1 0 0 0 0 0 0\n  eth0: 1500 3 0 0 0 0 0 0 700 2 0 0 0 0 0 0\n wlan0: 10 1 0 0 0 0 0 0 5 1 0 0 0 0 0 0\n';
  expect(carriedBytes(told, new Set(['eth0']))).toBe(2_200);
  expect(carriedBytes(told, new Set(['lo', 'wlan0']))).toBe(1_014);
  expect(linkBytes(new Set())).toBeNull();
});

test('what is sent over an interface is counted on it', async () => {
  const bytes = 8e6;
  const server = createServer((socket) => socket.resume()).listen(0, '127.0.0.1');
  await once(server, 'listening');
  const before = linkBytes(new Set([loopback]))!;
  const client = connect((server.address() as AddressInfo).port, '127.0.0.1');
  client.end(Buffer.alloc(bytes));
  await once(client, 'close');
  expect(linkBytes(new Set([loopback]))! - before).toBeGreaterThanOrEqual(bytes);
  server.close();
});
