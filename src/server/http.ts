import { ValidationError, type InferType, type ObjectSchema, type AnyObject } from 'yup';
import { isDatabaseDown } from '@/db/client';
import { EngineError } from '@/engine/errors';
import { databaseDownMessage, RequestError } from './errors';

/** Reads a JSON body. @throws RequestError when it is none */
export async function readJson(request: Request): Promise<unknown> {
  return request.json().catch(() => {
    throw new RequestError('The request is not JSON.');
  });
}

/** Reads and checks a JSON body. @throws RequestError with the field at fault */
export async function readBody<Schema extends ObjectSchema<AnyObject>>(
  request: Request,
  schema: Schema,
): Promise<InferType<Schema>> {
  return checked(await readJson(request), schema);
}

/** Checks what was sent. @throws RequestError with the field at fault */
export async function checked<Schema extends ObjectSchema<AnyObject>>(
  body: unknown,
  schema: Schema,
): Promise<InferType<Schema>> {
  try {
    return await schema.validate(body, { stripUnknown: true });
  } catch (error) {
    if (error instanceof ValidationError) throw new RequestError(error.message, 400, error.path ?? null);
    throw error;
  }
}

/** Runs a route's work and turns its errors into answers with a message for the person. */
export async function answer(work: () => Promise<Response | object | void>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result ?? { ok: true });
  } catch (error) {
    if (error instanceof RequestError)
      return Response.json({ message: error.message, field: error.field }, { status: error.status });
    if (error instanceof EngineError)
      return Response.json({ message: error.message, field: null }, { status: 400 });
    if (isDatabaseDown(error))
      return Response.json({ message: databaseDownMessage, field: null }, { status: 503 });
    console.error(error);
    return Response.json(
      { message: 'Something failed inside Navvy. The server log has the detail.', field: null },
      { status: 500 },
    );
  }
}
