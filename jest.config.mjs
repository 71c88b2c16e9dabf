/** Tests run as compiled: what is tested is what ships. */
export default {
  testEnvironment: 'node',
  roots: [
    '<rootDir>/packages',
    '<rootDir>/apps/server',
    '<rootDir>/apps/cli',
    '<rootDir>/demo',
    '<rootDir>/bench',
  ],
  testMatch: ['**/dist/**/*.test.js'],
  transform: {},
  testTimeout: 120_000,
  maxWorkers: 2,
};
