import a11y from 'eslint-plugin-jsx-a11y';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Four floors, arrows only down; each package lists what it may not import of ours. */
const floors = {
  'packages/core': ['model', 'contract', 'media', 'pipeline', 'server', 'cli', 'web', 'demo'],
  'packages/model': ['contract', 'media', 'pipeline', 'server', 'cli', 'web', 'demo'],
  'packages/contract': ['media', 'pipeline', 'server', 'cli', 'web', 'demo'],
  'packages/media': ['model', 'contract', 'pipeline', 'server', 'cli', 'web', 'demo'],
  'packages/pipeline': ['model', 'contract', 'server', 'cli', 'web', 'demo'],
  'apps/server': ['cli', 'web', 'demo'],
  'apps/cli': ['contract', 'server', 'web', 'demo'],
  'apps/web': ['media', 'pipeline', 'server', 'cli', 'demo'],
};

const noFrameworks = ['node:*', 'react', 'react-dom', '@nestjs/*', 'd3', 'mediabunny'];

const floorRules = Object.entries(floors).map(([folder, above]) => ({
  files: [`${folder}/src/**/*.{ts,tsx}`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          {
            group: [
              ...above.map((name) => `@lurn/${name}`),
              ...(folder === 'packages/core' ? noFrameworks : []),
            ],
            message: 'Arrows between the packages only go down; see docs/architecture.md.',
          },
        ],
      },
    ],
  },
}));

export default tseslint.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      '**/assembly/**',
      '.cache/**',
      'data/**',
      'test-results/**',
      'demo/clips/**',
    ],
  },
  ...tseslint.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      eqeqeq: 'error',
    },
  },
  // Rules that know the types.
  {
    files: ['**/src/**/*.{ts,tsx}', 'e2e/**/*.ts'],
    extends: [tseslint.configs.recommendedTypeCheckedOnly],
    // Some interfaces promise what one implementation has at once.
    rules: { '@typescript-eslint/require-await': 'off' },
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
  },
  // Nest reads the classes of constructor parameters at run time.
  {
    files: ['apps/server/src/**/*.ts', 'packages/contract/src/**/*.ts'],
    rules: { '@typescript-eslint/consistent-type-imports': 'off' },
  },
  {
    files: ['apps/web/src/**/*.{ts,tsx}'],
    extends: [hooks.configs.flat['recommended-latest'], a11y.flatConfigs.recommended],
  },
  // What a server answers is looked at in tests as it comes.
  {
    files: ['**/*.test.ts', '**/testing/**/*.ts', 'e2e/**/*.ts'],
    rules: {
      '@typescript-eslint/no-unsafe-argument': 'off',
      '@typescript-eslint/no-unsafe-assignment': 'off',
      '@typescript-eslint/no-unsafe-call': 'off',
      '@typescript-eslint/no-unsafe-member-access': 'off',
      '@typescript-eslint/no-unsafe-return': 'off',
    },
  },
  // Core tests read kernels and generated files from the disk.
  ...floorRules,
  {
    files: ['packages/core/src/**/*.test.ts', 'packages/core/src/testing/*.ts'],
    rules: { 'no-restricted-imports': 'off' },
  },
);
