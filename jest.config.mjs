/** Unit and engine tests run as native ES modules: the codec library is one. */
export default {
  testEnvironment: 'node',
  roots: ['<rootDir>/src'],
  setupFiles: ['<rootDir>/jest.setup.mjs'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  moduleNameMapper: {
    '^@/(.*)$': '<rootDir>/src/$1',
    '^server-only$': '<rootDir>/node_modules/server-only/empty.js',
  },
  transform: {
    '^.+\\.tsx?$': [
      '<rootDir>/jest.transform.mjs',
      {
        jsc: {
          parser: { syntax: 'typescript', tsx: true },
          target: 'es2022',
          transform: { react: { runtime: 'automatic' } },
          experimental: { keepImportAttributes: true },
        },
        module: { type: 'es6' },
      },
    ],
  },
  testSequencer: '<rootDir>/jest.sequencer.mjs',
  // Engine tests measure: two at once would measure each other.
  maxWorkers: 1,
  testTimeout: 180_000,
};
