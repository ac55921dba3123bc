import { get, set, type FieldErrors } from 'react-hook-form';

export interface FieldMessageOf {
  /** As the field is named, with dots between its parts. */
  readonly name: string;
  readonly message: string;
  readonly type: string;
}

/** All messages of a form by their fields, as deep as those are nested. */
export function messagesOf(errors: FieldErrors, path = ''): readonly FieldMessageOf[] {
  return Object.entries(errors).flatMap(([key, error]): readonly FieldMessageOf[] => {
    if (typeof error !== 'object' || error === null) return [];
    const name = path === '' ? key : `${path}.${key}`;
    const { message, type } = error as { message?: unknown; type?: unknown };
    if (typeof message === 'string' && typeof type === 'string') return [{ name, message, type }];
    return messagesOf(error as FieldErrors, name);
  });
}

/** Messages as a form keeps them, under other names. */
export function renamed(errors: FieldErrors, nameOf: (name: string) => string): FieldErrors {
  const named: FieldErrors = {};
  for (const { name, message, type } of messagesOf(errors)) {
    const at = nameOf(name);
    if (get(named, at) === undefined) set(named, at, { message, type });
  }
  return named;
}

/** A field's name with dots, of a path as messages of the server have it: `cameras[0].name`. */
export const dotted = (path: string) => path.replace(/\[(\d+)\]/g, '.$1');
