const swc = [
  '@swc/jest',
  {
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', tsx: true, decorators: true },
      transform: { legacyDecorator: true, decoratorMetadata: true, useDefineForClassFields: false, react: { runtime: 'automatic' } },
    },
    module: { type: 'es6' },
  },
];

const shared = {
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '\\.tsx?$': swc },
  moduleNameMapper: {
    '^@rootmap/core$': '<rootDir>/core/src/index.ts',
    '^@rootmap/core/contract$': '<rootDir>/core/src/contract/index.ts',
    '^(\\.{1,2}/.*)\\.js$': '$1',
  },
  testPathIgnorePatterns: ['/node_modules/', '/dist/', '/e2e/', '/.demo/'],
  modulePathIgnorePatterns: ['<rootDir>/.demo', '<rootDir>/\\.types'],
  rootDir: '.',
};

/** Packages run side by side; server and command line are tested against what is built, as users run it. */
export default {
  testTimeout: 120_000, // disks stall now and then; a test that hangs is still found
  projects: ['core', 'engine', 'server', 'cli', 'demo', 'web', 'scripts'].map((name) => ({
    ...shared,
    displayName: name,
    roots: [`<rootDir>/${name}`],
    testEnvironment: 'node',
    testMatch: ['**/*.test.ts', '**/*.test.tsx'],
    ...(name === 'web'
      ? {
          setupFiles: ['<rootDir>/web/test/setup.ts'],
          // Its build for Node tells no names of what it exports.
          moduleNameMapper: { ...shared.moduleNameMapper, '^notistack$': '<rootDir>/web/test/notistack.ts' },
        }
      : {}),
    // The engine's own sources are compiled in its tests; other packages use it as built.
    ...(name === 'engine'
      ? { moduleNameMapper: { ...shared.moduleNameMapper, '^@rootmap/engine$': '<rootDir>/engine/src/index.ts' } }
      : {}),
  })),
};
