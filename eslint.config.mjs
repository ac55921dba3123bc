import tseslint from 'typescript-eslint';
import importPlugin from 'eslint-plugin-import';
import reactHooks from 'eslint-plugin-react-hooks';

/**
 * Which layer may import which: `core` only itself; `engine` and `db` never the interface; `app` and `ui` measure
 * only through `server`. They are held by the file that is imported, whatever path names it.
 */
const layers = [
  {
    target: './src/core',
    from: ['./src/engine', './src/db', './src/server', './src/app', './src/ui', './src/demo', './src/cli'],
    message: 'core imports nothing but core.',
  },
  {
    target: './src/engine',
    from: ['./src/db', './src/server', './src/app', './src/ui', './src/cli'],
    message: 'engine measures; it knows no database and no interface.',
  },
  {
    target: './src/db',
    from: ['./src/server', './src/app', './src/ui', './src/cli', './src/demo'],
    message: 'db knows no interface.',
  },
  {
    target: './src/server',
    from: ['./src/app', './src/cli', './src/demo'],
    message: 'server answers; it knows no pages and no commands.',
  },
  {
    target: ['./src/app', './src/ui'],
    from: ['./src/cli', './src/demo'],
    message: 'What is seen knows no commands and no demo.',
  },
  {
    target: './src/ui',
    from: './src/app',
    message: 'Pages hand on to ui, not the other way.',
  },
  {
    target: './src/demo',
    from: ['./src/server', './src/app', './src/ui', './src/cli'],
    message: 'demo makes media and results; it knows no interface.',
  },
];

const noNow = {
  selector: "NewExpression[callee.name='Date'][arguments.length=0]",
  message: 'Clocks are passed in.',
};
const noSql = {
  group: ['drizzle-orm', 'drizzle-orm/*', 'pg'],
  message: 'SQL is written in db only.',
};
const noSpread = {
  selector: "CallExpression[callee.object.name='Math'] > SpreadElement",
  message: 'A list may be too long to be handed over as arguments: use greatest or least.',
};
const noOwnFormat = [
  {
    selector:
      'MemberExpression[property.name=/^(toFixed|toPrecision|toLocaleString|toLocaleDateString|toLocaleTimeString)$/]',
    message: 'Figures, times and dates for people are written by core/format.',
  },
  ...['TemplateElement', 'JSXText'].map((part) => ({
    selector: `${part}[value${part === 'JSXText' ? '' : '.raw'}=/^ ([kMGT]?B|M[bB]\\u002fs|[KGM]iB|m?s|min|h|dB|[kG]Hz|%)(?!\\w)/]`,
    message: 'A figure and its unit are written by quantity, size, percent or another of core/format.',
  })),
];
const noAddress = [
  'Literal[value=/^\\u002fapi\\u002f/]',
  'TemplateElement[value.raw=/^\\u002fapi\\u002f/]',
].map((selector) => ({
  selector,
  message: 'Routes are asked by their names: use callApi, useSend, useLive or addressOf.',
}));

/** Of these layers only types, by whatever path they are named. */
const typesOnly = (...names) => ({
  regex: `^(@|\\.+(/\\.+)*)/(${names.join('|')})(/|$)`,
  allowTypeImports: true,
  message: 'Pages reach measuring and data only through src/server; types are free.',
});

export default tseslint.config(
  {
    ignores: ['.next/**', '.navvy*/**', 'node_modules/**', 'drizzle/**', 'next-env.d.ts', 'test-results/**'],
  },
  // Rules that need types, and cycles of modules, are those of .oxlintrc.json: it asks the native compiler.
  ...tseslint.configs.strict.map((config) => ({ ...config, files: ['src/**/*.{ts,tsx}', 'tests/**/*.ts'] })),
  {
    files: ['src/**/*.{ts,tsx}', 'tests/**/*.ts'],
    plugins: { import: importPlugin, 'react-hooks': reactHooks },
    settings: {
      'import/resolver': { typescript: { project: './tsconfig.json' } },
      'import/parsers': { '@typescript-eslint/parser': ['.ts', '.tsx'] },
    },
    rules: {
      'import/no-restricted-paths': ['error', { zones: layers }],
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_', argsIgnorePattern: '^_' }],
      '@typescript-eslint/no-invalid-void-type': 'off',
    },
  },
  // Tests run whole trial processes, with media of the demo, and ask routes as pages do.
  {
    files: ['src/{engine,db,server}/**/testing/**', 'src/{engine,db,server}/**/*.test.ts'],
    rules: { 'import/no-restricted-paths': 'off' },
  },
  {
    files: ['src/{app,core,db,engine,server,ui}/**/*.{ts,tsx}'],
    ignores: ['**/*.test.{ts,tsx}', '**/testing/**'],
    rules: {
      'no-restricted-syntax': ['error', noSpread, ...noOwnFormat],
    },
  },
  {
    files: ['src/{app,ui}/**/*.{ts,tsx}'],
    ignores: ['**/*.test.{ts,tsx}', '**/testing/**', 'src/app/api/**', 'src/ui/api.ts'],
    rules: { 'no-restricted-syntax': ['error', noSpread, ...noOwnFormat, ...noAddress] },
  },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: { 'no-restricted-syntax': ['error', noSpread, noNow, ...noOwnFormat] },
  },
  // What machines read.
  {
    files: ['src/core/formats/**', 'src/server/**/*Csv.ts', 'src/core/format.ts'],
    ignores: ['**/testing/**'],
    rules: { 'no-restricted-syntax': ['error', noSpread, noNow] },
  },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: [
                'node:*',
                'react',
                'react-dom',
                'next',
                'next/*',
                'pg',
                'drizzle-orm',
                'drizzle-orm/*',
                'node-av',
                'node-av/*',
              ],
              message: 'core has no I/O and no interface.',
            },
          ],
        },
      ],
      'no-restricted-globals': [
        'error',
        { name: 'performance', message: 'Clocks are passed in.' },
        { name: 'process', message: 'core has no I/O.' },
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Randomness is a passed-in seed.' },
        { object: 'Date', property: 'now', message: 'Clocks are passed in.' },
      ],
    },
  },
  {
    files: ['src/{server,engine,demo}/**/*.ts'],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: { '@typescript-eslint/no-restricted-imports': ['error', { patterns: [noSql] }] },
  },
  {
    files: ['src/app/**/*.{ts,tsx}', 'src/ui/**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-restricted-imports': ['error', { patterns: [noSql, typesOnly('engine', 'db')] }],
    },
  },
  {
    files: ['src/ui/**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        { patterns: [noSql, typesOnly('engine', 'db', 'server')] },
      ],
    },
  },
  {
    files: ['**/*.test.{ts,tsx}', '**/testing/**', 'tests/**/*.ts'],
    rules: { '@typescript-eslint/no-non-null-assertion': 'off' },
  },
);
