import type { KnipConfig } from 'knip';
import { processes } from './src/cli/bundle';

/** What is used by nothing is an error: files, exports, packages. */
export default {
  entry: ['src/cli/main.ts', 'src/cli/testSpec.ts', ...Object.values(processes)],
  project: ['src/**/*.{ts,tsx}', 'tests/**/*.ts'],
  // Found by their paths (the tools of ./navvy), from the style sheet, or part of the tests' own tool.
  ignoreDependencies: [
    'oxfmt',
    'oxlint',
    'oxlint-tsgolint',
    'tsx',
    'typescript-native',
    'tailwindcss',
    '@fontsource-variable/*',
    '@jest/globals',
  ],
  // Of the system.
  ignoreBinaries: ['taskset', 'mount', 'umount', 'ffmpeg', 'fio'],
  // The type of a part may be named by whoever uses the whole.
  ignoreExportsUsedInFile: { interface: true, type: true },
} satisfies KnipConfig;
