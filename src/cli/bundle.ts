import { build } from 'esbuild';
import { fileURLToPath } from 'node:url';

/** The project's root folder. */
export const projectRoot = fileURLToPath(new URL('../../', import.meta.url));

/** Where each process and each thread of one begins. */
export const processes = {
  trial: 'src/engine/trial/trialProcess.ts',
  sound: 'src/engine/sound/soundWorker.ts',
  presenter: 'src/engine/playback/presenterWorker.ts',
  pulse: 'src/engine/pulse/pulseWorker.ts',
  runner: 'src/server/runner/main.ts',
  storage: 'src/engine/storage/storageProcess.ts',
  storageWorker: 'src/engine/storage/blockWorker.ts',
  decode: 'src/engine/decode/decodeProcess.ts',
  media: 'src/engine/library/mediaProcess.ts',
  rendition: 'src/engine/rendition/renditionProcess.ts',
  timeline: 'src/engine/scrub/timelineProcess.ts',
  openingLane: 'src/engine/opening/openingLane.ts',
  task: 'src/engine/task/taskProcess.ts',
  trackWorker: 'src/engine/task/trackWorker.ts',
  viewer: 'src/engine/timeline/viewerProcess.ts',
  web: 'src/server/web.ts',
};

/** Bundles the processes that run beside the web application (trial, its threads, runner), and the server around it. Takes well under a second. */
export async function bundleProcesses(outdir: string): Promise<void> {
  await build({
    absWorkingDir: projectRoot,
    entryPoints: processes,
    outdir,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    sourcemap: true,
    logLevel: 'error',
  });
}
