import tseslint from 'typescript-eslint';
import importPlugin from 'eslint-plugin-import';
import reactHooks from 'eslint-plugin-react-hooks';

/** Which layer may import which: `core` only itself; `engine` and `db` never the interface; `app` and `ui` measure only through `server`. */
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
    from: ['./src/server', './src/app', './src/ui', './src/cli'],
    message: 'db knows no interface.',
  },
];

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

const typesOnly = (from) => ({
  group: from,
  allowTypeImports: true,
  message: 'Pages reach measuring and data only through src/server; types are free.',
});

export default tseslint.config(
  {
    ignores: ['.next/**', '.navvy*/**', 'node_modules/**', 'drizzle/**', 'next-env.d.ts', 'test-results/**'],
  },
  ...tseslint.configs.strictTypeChecked.map((config) => ({
    ...config,
    files: ['src/**/*.{ts,tsx}', 'tests/**/*.ts'],
  })),
  {
    files: ['src/**/*.{ts,tsx}', 'tests/**/*.ts'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    plugins: { import: importPlugin, 'react-hooks': reactHooks },
    settings: { 'import/resolver': { typescript: { project: './tsconfig.json' } } },
    rules: {
      'import/no-restricted-paths': ['error', { zones: layers }],
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_', argsIgnorePattern: '^_' }],
      '@typescript-eslint/restrict-template-expressions': [
        'error',
        { allowNumber: true, allowBoolean: true, allowNullish: true },
      ],
      '@typescript-eslint/no-confusing-void-expression': ['error', { ignoreArrowShorthand: true }],
      '@typescript-eslint/no-misused-promises': [
        'error',
        {
          checksVoidReturn: {
            arguments: false,
            attributes: false,
            properties: false,
            inheritedMethods: false,
          },
        },
      ],
      '@typescript-eslint/no-unnecessary-condition': 'off', // indexes are checked, so it cannot tell what a typed array gives
      '@typescript-eslint/no-unnecessary-type-parameters': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
    },
  },
  // Engine tests run whole trial processes, as the runner does.
  {
    files: ['src/engine/__tests__/**', 'src/db/__tests__/**'],
    rules: { 'import/no-restricted-paths': 'off' },
  },
  {
    files: ['src/{app,core,db,engine,server,ui}/**/*.{ts,tsx}'],
    ignores: ['**/*.test.{ts,tsx}', '**/__tests__/**'],
    rules: {
      'no-restricted-syntax': ['error', noSpread, ...noOwnFormat],
    },
  },
  {
    files: ['src/{app,ui}/**/*.{ts,tsx}'],
    ignores: ['**/*.test.{ts,tsx}', '**/__tests__/**', 'src/app/api/**', 'src/ui/api.ts'],
    rules: { 'no-restricted-syntax': ['error', noSpread, ...noOwnFormat, ...noAddress] },
  },
  // What machines read.
  {
    files: ['src/core/formats/**', 'src/server/*Csv.ts', 'src/core/format.ts'],
    ignores: ['**/__tests__/**'],
    rules: { 'no-restricted-syntax': ['error', noSpread] },
  },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['**/*.test.ts', '**/__tests__/**'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['node:*', 'react', 'react-dom', 'next', 'next/*', 'pg', 'node-av', 'node-av/*'],
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
    files: ['src/app/**/*.{ts,tsx}', 'src/ui/**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        { patterns: [typesOnly(['@/engine/*', '@/engine/**', '@/db/*', '@/db/**'])] },
      ],
    },
  },
  {
    files: ['src/ui/**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          patterns: [
            typesOnly(['@/engine/*', '@/engine/**', '@/db/*', '@/db/**', '@/server/*', '@/server/**']),
          ],
        },
      ],
    },
  },
  {
    files: ['**/*.test.{ts,tsx}', '**/__tests__/**', 'tests/**/*.ts'],
    rules: { '@typescript-eslint/no-non-null-assertion': 'off' },
  },
);
