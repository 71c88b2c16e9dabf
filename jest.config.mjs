/** Tests run as compiled: what is tested is what ships. */
export default {
  testEnvironment: 'node',
  roots: [
    '<rootDir>/packages',
    '<rootDir>/apps/server',
    '<rootDir>/apps/cli',
    '<rootDir>/demo',
    '<rootDir>/bench',
    '<rootDir>/.cache/web-tests',
  ],
  // The page is bundled; its logic is compiled apart for the tests.
  testMatch: ['**/dist/**/*.test.js', '**/.cache/web-tests/**/*.test.js'],
  transform: {},
  testTimeout: 120_000,
  maxWorkers: 3,
};
