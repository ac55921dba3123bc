import { isMainThread } from 'node:worker_threads';

/**
 * Ends this process when the one that started it has gone, however it went: the
 * supervisor holds the other end of this process's input. Loaded by processes
 * that `./navvy` starts, so that none outlives it and none is met at the next start.
 */
if (isMainThread && process.env.NAVVY_LEASHED === '1') {
  process.stdin.on('end', () => process.exit(0));
  process.stdin.on('error', () => process.exit(0));
  process.stdin.resume();
}
