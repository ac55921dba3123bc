/** @jest-environment jsdom */
import { routes, type RouteName } from '@/core/asked/routes';
import { addressOf, ApiError, callApi, isAddress, readAt, type Answer } from './api';

interface Sent {
  readonly address: string;
  readonly method: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | null;
}
let sent: Sent[];
/** Answers all that is asked from now on. */
function answering(status: number, body: string) {
  sent = [];
  globalThis.fetch = ((address: string, init: Omit<Sent, 'address'>) => {
    sent.push({ address, ...init });
    return Promise.resolve({ ok: status < 300, json: () => Promise.resolve(JSON.parse(body) as unknown) });
  }) as unknown as typeof fetch;
}

describe('asking routes by their names', () => {
  test('puts ids and what is asked for into the address, whatever stands in them', () => {
    expect(addressOf('GET /api/status')).toBe('/api/status');
    expect(addressOf('GET /api/clips/{id}', { ids: { id: 'a/b ?#%' } })).toBe('/api/clips/a%2Fb%20%3F%23%25');
    expect(addressOf('GET /api/timelines/{id}/versions/{number}', { ids: { id: 't', number: 3 } })).toBe(
      '/api/timelines/t/versions/3',
    );
    const address = addressOf('GET /api/trials', { query: { words: 'a & b=c', page: 2, kind: undefined } });
    expect(Object.fromEntries(new URL(address, 'http://127.0.0.1').searchParams)).toEqual({
      words: 'a & b=c',
      page: '2',
    });
  });

  test('every route has an address that is one, and pages have none that is taken for one', () => {
    for (const name of Object.keys(routes) as RouteName[]) {
      const ids = Object.fromEntries([...name.matchAll(/\{(\w+)\}/g)].map(([, id = '']) => [id, 'x']));
      const address = (addressOf as (name: string, along: object) => string)(name, { ids });
      expect(address).not.toMatch(/[{}]|undefined/);
      expect(isAddress(address)).toBe(true);
    }
    expect(isAddress('/trials')).toBe(false);
  });

  test('sends what a route takes, and text as it is', async () => {
    answering(200, '{"id":"made"}');
    await expect(
      callApi('POST /api/timelines/{id}/copy', { ids: { id: 't' }, body: { name: 'B' } }),
    ).resolves.toEqual({
      id: 'made',
    });
    await callApi('POST /api/bundles', { body: '{"rig":1}' });
    await callApi('DELETE /api/trials/{id}', { ids: { id: 't' } });
    await readAt(addressOf('GET /api/rig'));
    expect(
      sent.map(({ method, address, body, headers }) => [method, address, body, headers['content-type']]),
    ).toEqual([
      ['POST', '/api/timelines/t/copy', '{"name":"B"}', 'application/json'],
      ['POST', '/api/bundles', '{"rig":1}', 'application/json'],
      ['DELETE', '/api/trials/t', null, 'application/json'],
      ['GET', '/api/rig', null, undefined],
    ]);
  });

  test('throws what is refused with its field, and says so when nobody answers', async () => {
    answering(400, '{"message":"Give the rig a name.","field":"name"}');
    const refused = await callApi('PATCH /api/rig', { body: { name: '' } }).catch((error: unknown) => error);
    expect(refused).toBeInstanceOf(ApiError);
    expect(refused).toMatchObject({ message: 'Give the rig a name.', field: 'name' });
    globalThis.fetch = () => Promise.reject(new Error('refused'));
    await expect(callApi('GET /api/status')).rejects.toThrow('./navvy start');
  });

  test('what a route does not have does not compile', () => {
    // Never called: the compiler reads it, and refuses an expectation of an error where there is none.
    const wrong = () => {
      // @ts-expect-error no such route
      void callApi('GET /api/nothing');
      // @ts-expect-error an id is missing
      void callApi('GET /api/clips/{id}');
      // @ts-expect-error the id has another name
      void callApi('GET /api/clips/{id}', { ids: { clipId: 'c' } });
      // @ts-expect-error a body is missing
      void callApi('PATCH /api/rig');
      // @ts-expect-error a name is text
      void callApi('PATCH /api/rig', { body: { name: 1 } });
      // @ts-expect-error nothing is taken
      void callApi('POST /api/volumes/{id}/scan', { ids: { id: 'v' }, body: { deep: true } });
      // @ts-expect-error a soak takes work
      void callApi('POST /api/trials', { body: { kind: 'soak', minutes: 1 } });
      // @ts-expect-error no such kind
      void callApi('POST /api/trials', { body: { kind: 'nothing' } });
      const told = callApi('GET /api/status');
      // @ts-expect-error not in the answer
      void told.then(({ nothing }) => nothing as unknown);
      // What has a usual value may be left out, and times are texts once they came through JSON.
      void callApi('POST /api/trials', { body: { kind: 'playback', clipId: 'c', scale: 'half' } });
      const time: Answer<'GET /api/plans'>[number]['createdAt'] = '2026-11-24T14:05:00Z';
      return time;
    };
    expect(wrong).toBeInstanceOf(Function);
  });
});
