import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { projectRoot } from './bundle';

let found: string | null = null;

/** A hash over everything that is built, as it was when this process first asked. */
export function sourceHash(): string {
  found ??= hashSources();
  return found;
}

function hashSources(): string {
  const hash = createHash('sha256');
  const visit = (path: string): void => {
    if (statSync(path).isDirectory())
      readdirSync(path)
        .sort()
        .forEach((name) => visit(join(path, name)));
    else if (!/\.test\.tsx?$/.test(path))
      hash.update(path.slice(projectRoot.length)).update(readFileSync(path));
  };
  ['src', 'package-lock.json', 'next.config.ts', 'postcss.config.mjs', 'tsconfig.json']
    .map((name) => join(projectRoot, name))
    .filter(existsSync)
    .forEach(visit);
  return hash.digest('hex');
}
