import { Readable } from 'node:stream';
import { usualMost, routes, type IdsOf, type RouteFacts, type RouteName } from '@/core/asked/routes';
import { isId, readBy, unsoundJson, ValidationError, type InferType, type ISchema } from '@/core/edge/strict';
import { TimelineError } from '@/core/timeline/schema';
import { isDatabaseDown, refusedValue } from '@/db/client';
import { EngineError } from '@/engine/errors';
import type { Refused } from '../contract';
import { RequestError } from './errors';

/** Longest message and name of a field in an answer, characters: what was sent does not come back whole. */
const mostMessage = 500;
const mostField = 200;

/** Bytes beyond the bound of a body that are read and let go, so that its sender hears why. */
const mostPassed = 64e6;

/** Checks what was sent. @throws RequestError with the field at fault */
export function checked<Schema extends ISchema<object>>(body: unknown, schema: Schema): InferType<Schema> {
  try {
    return readBy(schema, body);
  } catch (error) {
    if (error instanceof ValidationError)
      throw new RequestError('not-as-asked', { problem: error.message }, error.path ?? null);
    throw error;
  }
}

/** Reads a body as text, counting while it comes. @throws RequestError 413 as soon as it is longer than `most` bytes */
export async function readText({ body }: Pick<Request, 'body'>, most: number): Promise<string> {
  const tooLong = () => new RequestError('too-large', { bytes: most });
  const parts: Uint8Array[] = [];
  let bytes = 0;
  const reader = body?.getReader();
  for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) {
    const piece = part.value as Uint8Array;
    bytes += piece.byteLength;
    if (bytes <= most) parts.push(piece);
    else {
      // What was taken so far is of no use; a sender hears an answer only when it is done, so a little more is let go by.
      parts.length = 0;
      if (bytes > most + mostPassed) break;
    }
  }
  if (bytes > most) throw tooLong();
  return Buffer.concat(parts).toString('utf8');
}

async function readJson(request: Request, most: number): Promise<unknown> {
  return parseJson(await readText(request, most));
}

/** JSON that can be kept. @throws RequestError when it is none */
export function parseJson(text: string): unknown {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new RequestError('no-json');
  }
  const unsound = unsoundJson(json);
  if (unsound) throw new RequestError('unsound-json', { problem: unsound });
  return json;
}

/** What a route was asked. */
export interface Asked<Name extends RouteName> {
  readonly ids: Readonly<Record<IdsOf<Name>, string>>;
  readonly body: BodyOf<(typeof routes)[Name]>;
  readonly query: URLSearchParams;
  readonly request: Request;
}
type BodyOf<Facts extends RouteFacts> = Facts extends { readonly body: infer Schema extends ISchema<object> }
  ? InferType<Schema>
  : Facts extends { readonly takes: 'text' }
    ? string
    : Facts extends { readonly takes: 'json' }
      ? unknown
      : null;

/** What a route's work gives: a whole response, what goes out as JSON, or nothing. */
type Given = Response | object | void;

/** A route as the server calls it. `gives` is never there: it carries the type of what its work gives. */
export interface Answering<Gives extends Given> {
  (request: Request, context?: { params: Promise<Record<string, string>> }): Promise<Response>;
  readonly gives?: Gives;
}

/** What a route's work gives. */
export type GivenBy<Route> = Route extends Answering<infer Gives> ? Gives : never;

/**
 * A route: reads and checks what it is asked as the table of routes says, does its work, and turns what goes wrong into an answer with a
 * message for the person. Ids that can be none of ours are not looked for.
 */
export function route<Name extends RouteName, Gives extends Given>(
  name: Name,
  work: (asked: Asked<Name>) => Promise<Gives>,
): Answering<Gives> {
  const { body, takes, most = usualMost }: RouteFacts = routes[name];
  return async (request, context) =>
    answer(async () => {
      const ids = (await context?.params) ?? {};
      if (Object.values(ids).some((id) => !isId(id))) throw new RequestError('nothing-here');
      const sent =
        takes === 'text'
          ? await readText(request, most)
          : takes === 'json'
            ? await readJson(request, most)
            : body
              ? checked(await readJson(request, most), body)
              : null;
      const query = new URL(request.url).searchParams;
      return work({ ids, body: sent, query, request } as Asked<Name>);
    });
}

/** Runs a route's work and turns its errors into answers with a message for the person. */
export async function answer(work: () => Promise<Given>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result ?? { ok: true });
  } catch (error) {
    const { status, ...refused } = refusalFor(error);
    return Response.json(refused, { status });
  }
}

/** What is answered where something went wrong, short: its code, its words, and the field at fault. What nobody foresaw goes to the log. */
export function refusalFor(error: unknown): Refused & { readonly status: number } {
  const { status = 400, code, message, field = null } = knownFailure(error);
  return {
    status,
    code,
    message: message.slice(0, mostMessage),
    field: field?.slice(0, mostField) ?? null,
  };
}

function knownFailure(error: unknown): Omit<Refused, 'field'> & { status?: number; field?: string | null } {
  if (error instanceof RequestError || error instanceof EngineError) return error;
  if (error instanceof TimelineError)
    return new RequestError('timeline-unsound', { problem: error.message }, error.field);
  if (isDatabaseDown(error)) return new RequestError('database-down');
  const refused = refusedValue(error);
  if (refused === 'reference') return new RequestError('no-longer-there');
  if (refused === 'value') return new RequestError('value-out-of-form');
  console.error(error);
  return new RequestError('failed-inside');
}

/** A file to be kept under a name. @param type of text, without its character set */
export function fileAnswer(body: BodyInit, type: string, fileName: string): Response {
  return new Response(body, {
    headers: {
      'content-type': type === 'application/json' ? type : `${type}; charset=utf-8`,
      'content-disposition': `attachment; filename="${fileName}"`,
    },
  });
}

/** Lines that are made one after the other, as a CSV file. */
export const csvAnswer = (lines: AsyncIterable<string>, name: string): Response =>
  fileAnswer(Readable.toWeb(Readable.from(lines, { objectMode: false })) as ReadableStream, 'text/csv', name);
