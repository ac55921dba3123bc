/** The last part of a path. */
export function fileName(path: string): string {
  return path.split('/').at(-1) ?? path;
}

/** A file's name with those that the same content bears elsewhere, so that it is found by any of them. */
export function withOtherNames(name: string, also: readonly string[]): string {
  const shown = also.slice(0, 2);
  return shown.length === 0
    ? name
    : `${name}, also ${shown.join(', ')}${also.length > shown.length ? ` and ${also.length - shown.length} more` : ''}`;
}
