import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  {
    ignores: [
      '**/dist/**',
      '.types/**',
      '.demo/**',
      'reports/**',
      'test-results/**',
      'testdata/**',
      '**/*.g.ts',
      'engine/data/**',
      'web/vite.config.ts',
    ],
  },
  js.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    extends: [...tseslint.configs.recommendedTypeChecked],
    languageOptions: {
      parserOptions: {
        project: [
          './core/tsconfig.json',
          './engine/tsconfig.json',
          './server/tsconfig.json',
          './cli/tsconfig.json',
          './web/tsconfig.json',
          './demo/tsconfig.json',
          './tsconfig.tests.json',
        ],
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true, allowBoolean: true }],
      'no-control-regex': 'off',
    },
  },
  {
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: { 'no-console': 'error', 'no-restricted-globals': ['error', 'process', 'fetch', 'window', 'document'] },
  },
  {
    // One way to open (engine/src/disk/open.ts): whatever opens, lists, makes or removes goes through it. What only asks may stay.
    // The journal's own file, and what the system tells of processes and mounts, are named by no request.
    files: ['engine/src/**/*.ts'],
    ignores: [
      '**/*.test.ts',
      'engine/src/disk/**',
      'engine/src/changes/{disk,away,owner}.ts',
      'engine/src/geodatabase/holders.ts',
      'engine/src/places/drives.ts',
      'engine/src/store/*.ts',
    ],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          paths: [
            {
              name: 'node:fs',
              allowImportNames: ['accessSync', 'constants', 'existsSync', 'lstatSync', 'realpathSync', 'statSync', 'statfsSync'],
              allowTypeImports: true,
              message: 'Open it through engine/src/disk/files.ts.',
            },
            ...['node:fs/promises', 'fs', 'fs/promises'].map((name) => ({ name, message: 'Open it through engine/src/disk/files.ts.' })),
            { name: 'better-sqlite3', allowTypeImports: true, message: 'Open it through engine/src/disk/database.ts.' },
          ],
        },
      ],
    },
  },
  {
    files: ['web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: {
      ...Object.fromEntries(Object.keys(hooks.configs['recommended-latest'].rules).map((rule) => [rule, 'error'])),
      // The lists in sight of TanStack Virtual are not for the compiler, which is not used here.
      'react-hooks/incompatible-library': 'off',
    },
  },
  {
    files: ['**/*.test.{ts,tsx}', 'e2e/**', '*/test/**'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'off',
      '@typescript-eslint/no-unsafe-assignment': 'off',
      '@typescript-eslint/no-unsafe-member-access': 'off',
      '@typescript-eslint/no-unsafe-argument': 'off',
      '@typescript-eslint/no-unsafe-return': 'off',
      '@typescript-eslint/no-unsafe-call': 'off',
      '@typescript-eslint/unbound-method': 'off',
    },
  },
  {
    files: ['**/*.{js,mjs,cjs}'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        fetch: 'readonly',
        setTimeout: 'readonly',
        performance: 'readonly',
        Buffer: 'readonly',
        require: 'readonly',
        module: 'readonly',
        setImmediate: 'readonly',
        AbortController: 'readonly',
      },
    },
  },
  prettier,
);
