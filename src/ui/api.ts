/** A request the server refused, with its message for the person and the field at fault. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly field: string | null,
  ) {
    super(message);
  }
}

/** Calls a route and returns its JSON. @throws ApiError with a message that says what to do */
export async function callApi<Result>(
  path: string,
  method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE',
  body?: unknown,
): Promise<Result> {
  const response = await fetch(path, {
    method,
    headers: method === 'GET' ? {} : { 'content-type': 'application/json' },
    body: body ? JSON.stringify(body) : null,
  }).catch(() => {
    throw new ApiError(
      'Navvy does not answer. Look at the terminal where it was started; ./navvy start starts it again.',
      null,
    );
  });
  const result = (await response.json().catch(() => ({}))) as Result & {
    message?: string;
    field?: string | null;
  };
  if (!response.ok)
    throw new ApiError(result.message ?? 'The request failed. Try again.', result.field ?? null);
  return result;
}
