import { spawnSync } from 'node:child_process';
import { createServer } from 'node:net';
import { basename, join } from 'node:path';
import { projectRoot } from './bundle';
import { homeKey, paths } from './home';
import { freePort } from './ports';

test('a taken port is passed over', async () => {
  const wanted = await freePort(47_000);
  const server = createServer();
  await new Promise<void>((resolve) => {
    server.listen(wanted, '127.0.0.1', resolve);
  });
  const next = await freePort(wanted);
  expect(next).toBeGreaterThan(wanted);
  await new Promise((resolve) => {
    server.close(resolve);
  });
  expect(await freePort(wanted)).toBe(wanted);
});

test('the script lists its commands, and refuses others', () => {
  const run = (...args: string[]) =>
    spawnSync(join(projectRoot, 'navvy'), args, {
      encoding: 'utf8',
      env: { ...process.env, NODE_OPTIONS: '' },
    });
  const help = run('help');
  expect(help.status).toBe(0);
  for (const command of ['demo', 'start', 'test', 'bench', 'screenshots', 'reset'])
    expect(help.stdout).toContain(`./navvy ${command}`);
  expect(run('dance').status).toBe(2);
});

test('data of one home lies in that home', () => {
  expect(homeKey()).toMatch(/^[0-9a-f]{10}$/);
  expect(
    new Set(
      [paths.log, paths.media, paths.running].map((path) =>
        path.startsWith(process.env.NAVVY_HOME ?? join(projectRoot, '.navvy')),
      ),
    ),
  ).toEqual(new Set([true]));
  // What is built finds its packages beside it.
  expect(paths.build.startsWith(join(projectRoot, '.navvy-build'))).toBe(true);
  expect(basename(paths.build)).toMatch(/^[0-9a-f]{16}$/);
});
