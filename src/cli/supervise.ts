import { spawn, type ChildProcess } from 'node:child_process';
import { createWriteStream, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { projectRoot } from './bundle';
import { home, paths } from './home';
import type { Cluster } from './postgres';
import { freePort } from './ports';

export interface Service {
  readonly name: 'server' | 'runner';
  pid(): number | null;
  stop(): Promise<void>;
}

const restartMs = 500;

/** Keeps a process running: starts it again when it ends without being asked to. */
function keepRunning(
  name: Service['name'],
  args: readonly string[],
  environment: Record<string, string>,
): Service {
  const log = createWriteStream(join(paths.log, `${name}.log`), { flags: 'a' });
  let stopping = false;
  let child: ChildProcess;
  const start = () => {
    child = spawn(process.execPath, [...args], {
      cwd: projectRoot,
      env: { ...process.env, ...environment, NAVVY_LEASHED: '1' },
      stdio: ['pipe', 'pipe', 'pipe'],
      detached: true,
    });
    child.stdin?.on('error', () => undefined); // it has gone; `exit` tells
    writeFileSync(join(home, `${name}.pid`), String(child.pid));
    child.stdout?.pipe(log, { end: false });
    child.stderr?.pipe(log, { end: false });
    child.once('exit', (code, signal) => {
      if (stopping) return;
      log.write(
        `${new Date().toISOString()} ${name} ended (${signal ?? `code ${code}`}); starting it again\n`,
      );
      setTimeout(start, restartMs);
    });
  };
  start();
  return {
    name,
    pid: () => child.pid ?? null,
    stop: () =>
      new Promise((resolve) => {
        stopping = true;
        if (child.exitCode !== null || child.signalCode !== null) {
          resolve();
          return;
        }
        const force = setTimeout(() => child.kill('SIGKILL'), 3_000);
        child.once('exit', () => {
          clearTimeout(force);
          resolve();
        });
        child.kill('SIGTERM');
      }),
  };
}

/** Starts the runner of this rig. */
export function startRunner(
  { url, pid }: Pick<Cluster, 'url' | 'pid'>,
  environment: Record<string, string> = {},
): Service {
  return keepRunning('runner', ['--enable-source-maps', join(paths.build, 'runner.mjs')], {
    ...environment,
    NAVVY_DATABASE_URL: url,
    NAVVY_DATABASE_PID: String(pid),
    NODE_ENV: 'production',
  });
}

/** Starts the web server on a free loopback port and waits until it answers. */
export async function startServer(
  databaseUrl: string,
  wantedPort: number,
): Promise<{ service: Service; address: string }> {
  const port = await freePort(wantedPort);
  const service = keepRunning('server', ['--enable-source-maps', join(paths.build, 'web.mjs')], {
    NAVVY_DATABASE_URL: databaseUrl,
    NAVVY_WEB_PORT: String(port),
    NODE_ENV: 'production',
  });
  const address = `http://127.0.0.1:${port}`;
  for (let attempt = 0; attempt < 300; attempt++) {
    if (
      await fetch(`${address}/api/health`).then(
        (response) => response.ok,
        () => false,
      )
    )
      return { service, address };
    await new Promise((resolve) => {
      setTimeout(resolve, 100);
    });
  }
  await service.stop();
  throw new Error(
    `The web server does not answer at ${address}. Its log is ${join(paths.log, 'server.log')}.`,
  );
}
