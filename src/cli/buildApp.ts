import { spawn } from 'node:child_process';
import {
  existsSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { bundleProcesses, projectRoot } from './bundle';
import { CliError, paths } from './home';
import { sourceHash } from './sources';

const stamp = join(projectRoot, '.next', 'navvy-stamp');

/** Bundles of processes that nothing has used for so long are removed. */
const keptMs = 7 * 24 * 3_600_000;
const usedEveryMs = 3_600_000;

/**
 * Bundles the processes beside the web application, unless these sources have been. Each state of the sources has a folder of
 * its own, so that a Navvy that runs goes on with what it began with. Folders that no Navvy uses any more are removed.
 */
export function buildProcesses(): Promise<void> {
  built ??= makeProcesses();
  return built;
}

let built: Promise<void> | null = null;

async function makeProcesses(): Promise<void> {
  const folder = paths.build;
  if (!existsSync(folder)) {
    const made = `${folder}.${process.pid}`;
    await bundleProcesses(made);
    try {
      renameSync(made, folder);
    } catch (error) {
      rmSync(made, { recursive: true, force: true });
      if (!existsSync(folder)) throw error; // else another command has made it meanwhile
    }
  }
  const touch = () => utimesSync(folder, new Date(), new Date());
  touch();
  setInterval(touch, usedEveryMs).unref();
  for (const name of readdirSync(dirname(folder))) {
    const other = join(dirname(folder), name);
    if (Date.now() - statSync(other).mtimeMs > keptMs) rmSync(other, { recursive: true, force: true });
  }
}

/** Builds the web application, unless nothing changed since the last build, and the processes beside it. */
export async function buildApp(): Promise<void> {
  await buildProcesses();
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
