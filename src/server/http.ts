import { ValidationError, type InferType, type ObjectSchema, type AnyObject } from 'yup';
import { isDatabaseDown } from '@/db/client';
import { EngineError } from '@/engine/errors';
import { databaseDownMessage, RequestError } from './errors';

/** Reads and checks a JSON body. @throws RequestError with the field at fault */
export async function readBody<Schema extends ObjectSchema<AnyObject>>(
  request: Request,
  schema: Schema,
): Promise<InferType<Schema>> {
  const body: unknown = await request.json().catch(() => {
    throw new RequestError('The request is not JSON.');
  });
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
