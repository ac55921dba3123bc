/** The last part of a path. */
export function fileName(path: string): string {
  return path.split('/').at(-1) ?? path;
}
