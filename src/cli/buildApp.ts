import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bundleProcesses, projectRoot } from './bundle';
import { CliError, paths } from './home';

const stamp = join(projectRoot, '.next', 'navvy-stamp');

/** A hash over everything the web build is made of. */
function sourceHash(): string {
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

/** Builds the web application, unless nothing changed since the last build, and the processes beside it. */
export async function buildApp(): Promise<void> {
  await bundleProcesses(paths.build);
  const hash = sourceHash();
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === hash) return;
  process.stdout.write('Building the web application ...\n');
  const { status, output } = await run([join(projectRoot, 'node_modules/next/dist/bin/next'), 'build'], {
    NODE_ENV: 'production',
    NAVVY_DATABASE_URL: 'postgres://build-time-only@127.0.0.1:1/none',
  });
  if (status !== 0) throw new CliError(`The build failed:\n${output}`);
  writeFileSync(stamp, hash);
}

/** Runs Node.js with its output kept. */
async function run(
  args: readonly string[],
  environment: Record<string, string>,
): Promise<{ status: number | null; output: string }> {
  const child = spawn(process.execPath, args, {
    cwd: projectRoot,
    env: { ...process.env, ...environment },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let output = '';
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (part: Buffer) => {
      output += part.toString();
    });
  return new Promise((resolve) => {
    child.once('close', (status) => resolve({ status, output }));
  });
}
