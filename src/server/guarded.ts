import type { IncomingMessage, ServerResponse } from 'node:http';
import { refusalOf } from '@/core/asked/guard';
import type { Refused } from './contract';

const first = (value: string | string[] | undefined) => (Array.isArray(value) ? value[0] : value);

/**
 * Refuses what a port is not to answer; see `refusalOf`. Returns whether it did.
 * @param isPage whether a path is a page, to which others may have links
 */
export function refused(
  request: IncomingMessage,
  response: ServerResponse,
  hosts: ReadonlySet<string>,
  isPage: (path: string) => boolean,
): boolean {
  const { headers, method = 'GET' } = request;
  const path = (request.url ?? '/').split('?', 1)[0] as string;
  const refusal = refusalOf(
    {
      method,
      path,
      isPage: isPage(path),
      host: headers.host,
      origin: headers.origin,
      fetchSite: first(headers['sec-fetch-site']),
      contentType: headers['content-type'],
    },
    hosts,
  );
  if (!refusal) return false;
  request.resume(); // what it still sends goes nowhere
  const { status, code, message } = refusal;
  const told: Refused = { code, message, field: null };
  response
    .writeHead(status, { 'content-type': 'application/json', 'cache-control': 'no-store' })
    .end(JSON.stringify(told));
  return true;
}
