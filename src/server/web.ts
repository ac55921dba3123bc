import './platform/leash';
import { randomBytes } from 'node:crypto';
import { createServer } from 'node:http';
import next from 'next';
import { answerHeaders, loopbackHosts } from '@/core/asked/guard';
import { refused } from './guarded';

/**
 * The web server: every request passes the guard before the application sees it, and every answer carries its headers.
 * NAVVY_WEB_PORT is its port on loopback; NAVVY_HOSTS names further hosts that lead to it, parted by commas, as
 * `localhost:8080` of a tunnel.
 */
const port = Number(process.env.NAVVY_WEB_PORT);
const further = (process.env.NAVVY_HOSTS ?? '')
  .split(',')
  .map((host) => host.trim().toLowerCase())
  .filter(Boolean);
const hosts = new Set([...loopbackHosts(port), ...further]);
const isPage = (path: string) => !path.startsWith('/api/');

const application = next({ dev: false, dir: process.cwd(), hostname: '127.0.0.1', port });
await application.prepare();
const handle = application.getRequestHandler();

const server = createServer((request, response) => {
  const nonce = randomBytes(16).toString('base64');
  const headers = answerHeaders(nonce);
  for (const [name, value] of Object.entries(headers)) response.setHeader(name, value);
  if (refused(request, response, hosts, isPage)) return;
  // The application takes the number for its own scripts from here.
  request.headers['content-security-policy'] = headers['content-security-policy'];
  request.headers['x-nonce'] = nonce;
  handle(request, response).catch((error: unknown) => {
    console.error(error);
    if (!response.headersSent) response.writeHead(500);
    response.end();
  });
});
// A clip of a terabyte may take longer than the five minutes that are usual; a slow head may not.
server.requestTimeout = 0;
server.listen(port, '127.0.0.1');
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0));
