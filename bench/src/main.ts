import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { benchPipeline } from './pipeline.js';
import { benchViewer } from './viewer.js';

// npm run bench                 everything, as ratios against a yardstick in the same run
// npm run bench -- pipeline     tracking, export, memory
// npm run bench -- viewer       steps, seeks and playing in the browser
const what = process.argv[2] ?? 'all';
if (!['all', 'pipeline', 'viewer'].includes(what)) {
  console.error(`There is no bench "${what}"; choose pipeline or viewer, or give none for both.`);
  process.exit(2);
}
if (!existsSync(fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url)))) {
  console.error(
    'The demo film is not there yet; run npm run demo once, or node demo/dist/main.js demo/clips.',
  );
  process.exit(1);
}
if (what !== 'viewer') await benchPipeline(5);
if (what !== 'pipeline') await benchViewer();
