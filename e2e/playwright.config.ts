import { fileURLToPath } from 'node:url';
import { defineConfig } from '@playwright/test';

const root = fileURLToPath(new URL('..', import.meta.url));
const port = 4890;

export default defineConfig({
  testDir: './tests',
  outputDir: '../test-results/browser',
  // One alone leaves a third of two cores idle, waiting for the screen.
  workers: 2,
  timeout: 300_000,
  // Machines are shared: what takes seconds on a calm one may take half a minute on a busy one.
  expect: { timeout: 30_000 },
  retries: 1,
  reporter: [['list'], ['json']],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    actionTimeout: 40_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        ...[
          '--no-sandbox',
          '--disable-gpu',
          '--enable-unsafe-swiftshader',
          '--disable-quic',
          '--no-first-run',
        ],
        ...['--disable-background-networking', '--disable-component-update', '--disable-sync'],
      ],
    },
  },
  webServer: {
    command: 'node apps/server/dist/main.js',
    cwd: root,
    url: `http://127.0.0.1:${port}/api/health`,
    env: {
      LURN_PORT: `${port}`,
      LURN_DATA: `${root}test-results/data`,
      LURN_LOG: 'warn',
      LURN_MEDIA: `${root}test-results/shelf`,
    },
    stdout: 'pipe',
    gracefulShutdown: { signal: 'SIGTERM', timeout: 5000 },
  },
});
