import { answerHeaders, loopbackHosts, refusalOf, type GuardedRequest } from '../asked/guard';

const hosts = new Set([...loopbackHosts(4600), 'localhost:8080']);
const asked = (change: Partial<GuardedRequest>): GuardedRequest => ({
  method: 'POST',
  path: '/api/timelines',
  isPage: false,
  host: '127.0.0.1:4600',
  origin: 'http://127.0.0.1:4600',
  fetchSite: 'same-origin',
  contentType: 'application/json',
  ...change,
});
const statusOf = (change: Partial<GuardedRequest>) => refusalOf(asked(change), hosts)?.status ?? 200;

test.each<[string, Partial<GuardedRequest>]>([
  ['a change by an own page', {}],
  ['one with a character set', { contentType: 'Application/JSON; charset=utf-8' }],
  ['one by a script, which tells no origin', { origin: undefined, fetchSite: undefined }],
  ['one by another name of this host', { host: 'LOCALHOST:4600', origin: 'http://localhost:4600' }],
  ['one through a tunnel that was named', { host: 'localhost:8080', origin: 'http://localhost:8080' }],
  ['data read by an own page', { method: 'GET', origin: undefined, contentType: undefined }],
  [
    'data in the address line',
    { method: 'GET', origin: undefined, fetchSite: 'none', contentType: undefined },
  ],
  [
    'a page by a link of another site',
    { method: 'GET', path: '/trials', isPage: true, fetchSite: 'cross-site', origin: undefined },
  ],
  ['an upload', { path: '/api/volumes/v1/upload', contentType: 'application/octet-stream' }],
])('%s goes through', (_, change) => expect(statusOf(change)).toBe(200));

test.each<[string, Partial<GuardedRequest>, number]>([
  [
    'a name that was pointed here',
    { host: 'tidewrack.example:4600', origin: 'http://tidewrack.example:4600' },
    421,
  ],
  ['this host at another port', { host: '127.0.0.1:4601' }, 421],
  ['no name', { host: undefined }, 421],
  ['a page by a name that was pointed here', { method: 'GET', isPage: true, host: 'tidewrack.example' }, 421],
  [
    'a change by a page of another site',
    { origin: 'http://tidewrack.example', fetchSite: 'cross-site' },
    403,
  ],
  ['one that tells its origin only', { origin: 'http://tidewrack.example', fetchSite: undefined }, 403],
  ['one that tells its site only', { origin: undefined, fetchSite: 'cross-site' }, 403],
  ['one of another port of this host', { origin: 'http://127.0.0.1:3000', fetchSite: 'same-site' }, 403],
  ['one from a sandbox', { origin: 'null', fetchSite: 'cross-site' }, 403],
  [
    'a name that begins like ours',
    { origin: 'http://127.0.0.1:4600.tidewrack.example', fetchSite: undefined },
    403,
  ],
  ['data read by a page of another site', { method: 'GET', fetchSite: 'cross-site', origin: undefined }, 403],
  ['a form', { contentType: 'application/x-www-form-urlencoded' }, 415],
  ['plain text', { contentType: 'text/plain' }, 415],
  ['JSON told as text', { contentType: 'text/plain; x=application/json' }, 415],
  ['nothing told', { method: 'DELETE', contentType: undefined }, 415],
  ['an upload as a form', { path: '/api/volumes/v1/upload', contentType: 'multipart/form-data' }, 415],
  ['a file where JSON belongs', { contentType: 'application/octet-stream' }, 415],
])('%s is refused', (_, change, status) => expect(statusOf(change)).toBe(status));

test('a refusal says what to do', () => {
  expect(refusalOf(asked({ host: 'elsewhere' }), hosts)?.message).toContain('http://127.0.0.1:4600');
  expect(refusalOf(asked({ contentType: 'text/plain' }), hosts)?.message).toContain('application/json');
});

test('scripts run only from the server or with the number of the answer', () => {
  const policy = answerHeaders('a1b2')['content-security-policy'] ?? '';
  const scripts = policy.split('; ').find((part) => part.startsWith('script-src')) ?? '';
  expect(scripts).toBe("script-src 'self' 'nonce-a1b2'");
  expect(policy).toContain("frame-ancestors 'none'");
  expect(answerHeaders('x')).toMatchObject({
    'x-content-type-options': 'nosniff',
    'x-frame-options': 'DENY',
    'referrer-policy': 'no-referrer',
  });
});
