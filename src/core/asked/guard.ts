import { routes, type RouteFacts } from './routes';
import { wordsFor, type About } from '../failure';
import { coreWords, type CoreCode } from '../words';

/** What a guard looks at of a request. */
export interface GuardedRequest {
  readonly method: string;
  /** Path of the address, without what is asked in it. */
  readonly path: string;
  /** A page that others may have a link to, not data. */
  readonly isPage: boolean;
  readonly host: string | undefined;
  readonly origin: string | undefined;
  /** `Sec-Fetch-Site`: where the page is from that asks; browsers tell it, scripts do not. */
  readonly fetchSite: string | undefined;
  readonly contentType: string | undefined;
}

export interface Refusal {
  readonly status: number;
  readonly code: CoreCode;
  readonly message: string;
}

function refuse<Code extends CoreCode>(
  status: number,
  code: Code,
  ...[given]: About<(typeof coreWords)[Code]>
): Refusal {
  return { status, code, message: wordsFor(coreWords[code], given) };
}

/** Methods that change nothing. */
const safe: readonly string[] = ['GET', 'HEAD', 'OPTIONS'];
/** Paths of routes that take a file as it comes. */
const uploads = (Object.entries(routes) as [string, RouteFacts][])
  .filter(([, { takes }]) => takes === 'file')
  .map(([name]) => new RegExp(`^${name.split(' ')[1]?.replace(/\{\w+\}/g, '[^/]+')}$`));

/** The media type that the body of a request must be told as. Pages of other sites cannot send either without being asked first. */
export const bodyTypeOf = (path: string): string =>
  uploads.some((one) => one.test(path)) ? 'application/octet-stream' : 'application/json';

/** Names by which a loopback port can be asked for. @param port as text or number */
export const loopbackHosts = (port: number | string): string[] =>
  ['127.0.0.1', 'localhost'].map((name) => `${name}:${port}`);

/**
 * Whether a request may go on; else why not. It must name a host that the server was started for (else another name was
 * pointed at this machine); what changes something, and data that are read, must be asked for by the server's own pages or by
 * no page; and a change must be told as JSON, which no page of another site can send.
 * @param hosts names with ports, in small letters
 */
export function refusalOf(request: GuardedRequest, hosts: ReadonlySet<string>): Refusal | null {
  const { method, path, isPage, host, origin, fetchSite, contentType } = request;
  if (host === undefined || !hosts.has(host.toLowerCase()))
    return refuse(421, 'other-host', { host: [...hosts][0] ?? '127.0.0.1' });
  if (!isReadable(path)) return refuse(400, 'address-unreadable');
  const changes = !safe.includes(method);
  if (!changes && isPage) return null;
  const isForeign = fetchSite !== undefined && fetchSite !== 'same-origin' && fetchSite !== 'none';
  if (isForeign || (origin !== undefined && !isOwn(origin, hosts))) return refuse(403, 'foreign-page');
  if (changes && mediaType(contentType) !== bodyTypeOf(path))
    return refuse(415, 'other-content-type', { type: bodyTypeOf(path) });
  return null;
}

/** Whether what is escaped in a path stands for characters. */
function isReadable(path: string): boolean {
  try {
    decodeURIComponent(path);
    return true;
  } catch {
    return false;
  }
}

const mediaType = (contentType: string | undefined) => contentType?.split(';')[0]?.trim().toLowerCase();

function isOwn(origin: string, hosts: ReadonlySet<string>): boolean {
  const host = /^https?:\/\/([^/]+)$/.exec(origin.toLowerCase())?.[1];
  return host !== undefined && hosts.has(host);
}

/**
 * Headers of every answer: scripts run only from this server or with the page's own number used once, nothing frames a page,
 * nobody is told where a person came from.
 */
export function answerHeaders(nonce: string): Readonly<Record<string, string>> {
  return {
    'content-security-policy': [
      "default-src 'self'",
      `script-src 'self' 'nonce-${nonce}'`,
      // Positions and sizes of charts are styles of their own elements.
      "style-src 'self' 'unsafe-inline'",
      "img-src 'self' blob: data:",
      "connect-src 'self'",
      "object-src 'none'",
      "base-uri 'none'",
      "form-action 'self'",
      "frame-ancestors 'none'",
    ].join('; '),
    'x-content-type-options': 'nosniff',
    'x-frame-options': 'DENY',
    'referrer-policy': 'no-referrer',
    'cross-origin-resource-policy': 'same-origin',
    'cross-origin-opener-policy': 'same-origin',
  };
}
