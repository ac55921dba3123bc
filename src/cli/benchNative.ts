import { spawnSync } from 'node:child_process';

/** Threads of the native decoder and of ours. */
export const threads = 2;

/** Frames per second of the native command line, from its own start and end of decoding. */
export function nativeRate(path: string, frames: number): number {
  const { stderr, status } = spawnSync(
    'ffmpeg',
    [
      '-hide_banner',
      '-loglevel',
      'info',
      '-benchmark',
      '-threads',
      String(threads),
      '-i',
      path,
      '-map',
      '0:v:0',
      '-f',
      'null',
      '-',
    ],
    { encoding: 'utf8' },
  );
  const seconds = Number(/rtime=([\d.]+)s/.exec(stderr)?.[1]);
  if (status !== 0 || !(seconds > 0))
    throw new Error(`The reference decoder failed on ${path}:\n${stderr.slice(-400)}`);
  return frames / seconds;
}
