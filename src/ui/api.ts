import type { IdsOf, RouteName, SentTo } from '@/core/asked/routes';
import type { Given } from '@/server/platform/answers';

/** A request the server refused, with its message for the person and the field at fault. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly field: string | null,
  ) {
    super(message);
  }
}

/** A failure as it is said to a person: a refusal as it is, anything else in its own words. */
export const apiErrorOf = (failure: unknown): ApiError =>
  failure instanceof ApiError ? failure : new ApiError(String(failure), null);

/** A value as a page has it: a time that came through JSON is a text. */
export type AsJson<Value> = Value extends Date
  ? Date | string
  : Value extends object
    ? { [Field in keyof Value]: AsJson<Value[Field]> }
    : Value;
/** What a route answers with; routes that send a file are reached by their address. */
export type Answer<Name extends RouteName> = AsJson<Exclude<Given[Name], Response>>;

type Query = Readonly<Record<string, string | number | undefined>>;
/** What stands in a route's address besides its name. */
export type Addressed<Name extends RouteName> = { readonly query?: Query } & (IdsOf<Name> extends never
  ? { readonly ids?: never }
  : { readonly ids: Readonly<Record<IdsOf<Name>, string | number>> });
/** What a route is asked with. */
export type Along<Name extends RouteName> = Addressed<Name> &
  (SentTo<Name> extends undefined ? { readonly body?: never } : { readonly body: SentTo<Name> });
/** May be left out where a route asks for none. */
export type Optionally<Needed> = Partial<Needed> extends Needed ? [along?: Needed] : [along: Needed];

const split = (name: RouteName) => name.split(' ') as [method: string, path: string];

/** Address of a route with its ids and query; a query's undefined values are left out. */
export function addressOf<Name extends RouteName>(
  name: Name,
  ...[along]: Optionally<Addressed<Name>>
): string {
  const { ids, query = {} } = (along ?? {}) as {
    ids?: Readonly<Record<string, string | number>>;
    query?: Query;
  };
  const path = split(name)[1].replace(/\{(\w+)\}/g, (_, id: string) => encodeURIComponent(ids?.[id] ?? ''));
  const given = Object.entries(query).filter(([, value]) => value !== undefined);
  return given.length === 0
    ? path
    : `${path}?${new URLSearchParams(given.map(([key, value]) => [key, String(value)])).toString()}`;
}

/** Whether a link leads to a route and not to a page. */
export const isAddress = (href: string): boolean => href.startsWith('/api/');

/** Asks a route and returns what it answers. @throws ApiError with a message that says what to do */
export function callApi<Name extends RouteName>(
  name: Name,
  ...[along]: Optionally<Along<Name>>
): Promise<Answer<Name>> {
  const { body } = (along ?? {}) as { body?: unknown };
  const address = addressOf<RouteName>(name, ...([along] as Optionally<Addressed<RouteName>>));
  return callAt(split(name)[0], address, typeof body === 'string' ? body : JSON.stringify(body)) as Promise<
    Answer<Name>
  >;
}

/** Reads what stands at an address that `addressOf` gave. @throws ApiError as `callApi` does */
export const readAt = (address: string): Promise<unknown> => callAt('GET', address, undefined);

interface Refusal {
  readonly message?: string;
  readonly field?: string | null;
}

async function callAt(method: string, address: string, body: string | undefined): Promise<unknown> {
  const response = await fetch(address, {
    method,
    headers: method === 'GET' ? {} : { 'content-type': 'application/json' },
    body: body ?? null,
  }).catch(() => {
    throw new ApiError(
      'Navvy does not answer. Look at the terminal where it was started; ./navvy start starts it again.',
      null,
    );
  });
  const result = (await response.json().catch(() => ({}))) as Refusal;
  if (!response.ok)
    throw new ApiError(result.message ?? 'The request failed. Try again.', result.field ?? null);
  return result;
}

/** How far a file is on its way out. */
export interface Sent {
  readonly bytes: number;
  readonly total: number;
}

/**
 * Sends a file as a body. The one request whose way out must be watched, which fetch does not tell.
 * @returns false when it was stopped on the way
 * @throws ApiError as `callApi` does
 */
export function sendFile(
  address: string,
  file: Blob,
  onSent: (sent: Sent) => void,
  signal: AbortSignal,
): Promise<boolean> {
  return new Promise((resolve, reject) => {
    const call = new XMLHttpRequest();
    call.upload.onprogress = ({ loaded, total }) => onSent({ bytes: loaded, total });
    call.onload = () => {
      // Null where what came is no JSON.
      const { message, field } = (call.response as Refusal | null) ?? {};
      if (call.status < 300) resolve(true);
      else reject(new ApiError(message ?? 'The upload failed. Try again.', field ?? null));
    };
    call.onerror = () =>
      reject(new ApiError('Navvy does not answer. What was sent so far is removed; try again.', null));
    call.onabort = () => resolve(false);
    signal.addEventListener('abort', () => call.abort());
    call.open('POST', address);
    call.responseType = 'json';
    call.setRequestHeader('content-type', 'application/octet-stream');
    call.send(file);
  });
}
