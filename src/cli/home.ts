import { createHash } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { projectRoot } from './bundle';

/** Where Navvy keeps its data: `.navvy` in the project, or NAVVY_HOME. */
export const home = process.env.NAVVY_HOME ?? join(projectRoot, '.navvy');

export const paths = {
  log: join(home, 'log'),
  build: join(home, 'build'),
  media: join(home, 'media'),
  running: join(home, 'running.json'),
  migrations: join(projectRoot, 'drizzle'),
};

/** Makes the folders of this home and tells all processes where its own media lies. */
export function prepareHome(): void {
  process.env.NAVVY_MEDIA = paths.media;
  for (const folder of [home, paths.log, paths.build]) mkdirSync(folder, { recursive: true });
}

/** A short name for this home, for things that must lie outside it. */
export function homeKey(): string {
  return createHash('sha256').update(home).digest('hex').slice(0, 10);
}

/** A failure with a message that names the fix; printed without a stack. */
export class CliError extends Error {}
