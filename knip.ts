import type { KnipConfig } from 'knip';
import { processes } from './src/cli/bundle';

/** What is used by nothing is an error: files, exports, packages. */
export default {
  entry: [
    'src/cli/main.ts',
    'src/cli/testSpec.ts',
    'src/core/tasks/shareTimes.ts',
    ...Object.values(processes),
  ],
  project: ['src/**/*.{ts,tsx}', 'tests/**/*.ts'],
  // Found at run time, by their paths: the checks of ./navvy test, and the vision library of a thread.
  ignoreDependencies: ['prettier', 'typescript-native'],
  // Of the system.
  ignoreBinaries: ['taskset', 'mount', 'umount'],
} satisfies KnipConfig;
