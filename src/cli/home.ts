import { createHash } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { projectRoot } from './bundle';
import { sourceHash } from './sources';

/** Where Navvy keeps its data: `.navvy` in the project, or NAVVY_HOME, which may lie anywhere. */
export const home = resolve(process.env.NAVVY_HOME ?? join(projectRoot, '.navvy'));

export const paths = {
  log: join(home, 'log'),
  /** What is built of these sources: it belongs to the project, where it finds its packages. */
  get build() {
    return join(projectRoot, '.navvy-build', sourceHash().slice(0, 16));
  },
  media: join(home, 'media'),
  running: join(home, 'running.json'),
  migrations: join(projectRoot, 'drizzle'),
};

/** Makes the folders of this home and tells all processes where its own media lies. */
export function prepareHome(): void {
  process.env.NAVVY_MEDIA = paths.media;
  for (const folder of [home, paths.log]) mkdirSync(folder, { recursive: true });
}

/** A short name for this home, for things that must lie outside it. */
export function homeKey(): string {
  return createHash('sha256').update(home).digest('hex').slice(0, 10);
}

/** A failure with a message that names the fix; printed without a stack. */
export class CliError extends Error {}
