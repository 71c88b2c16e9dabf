import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { benchAccuracy } from './accuracy/accuracy.js';
import { benchFilm } from './film.js';
import { benchImport } from './import.js';
import { benchKernels } from './kernels.js';
import { benchLong } from './long.js';
import { benchMutations } from './mutations.js';
import { benchPipeline } from './pipeline.js';
import { benchViewer } from './viewer.js';
import { benchWarp } from './warp.js';

// npm run bench                 everything, as ratios against a yardstick in the same run
// npm run bench -- accuracy     tracking against generated truth; a condition's name or "all" may follow, and how many at once
// npm run bench -- film         points suggested on the demo film, and scores, against its truth
// npm run bench -- kernels      warping; flow, corners, template search against OpenCV, where it is installed
// npm run bench -- pipeline     tracking, export, memory
// npm run bench -- import       reading a clip against bare decode, scale and encode
// npm run bench -- viewer       steps, seeks and playing in the browser
// npm run bench -- long         10,000 frames, and 4K, through server and page; "4k" may follow; not among "all"
// npm run bench -- mutations    damaged files through import; how many may follow, else 1000; not among "all"
const what = process.argv[2] ?? 'all';
const parts = ['accuracy', 'film', 'kernels', 'pipeline', 'import', 'viewer', 'long', 'mutations'];
if (what !== 'all' && !parts.includes(what)) {
  console.error(`There is no bench "${what}"; choose ${parts.join(', ')}, or give none for all.`);
  process.exit(2);
}
if (!existsSync(fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url)))) {
  console.error(
    'The demo film is not there yet; run npm run demo once, or node demo/dist/main.js demo/clips.',
  );
  process.exit(1);
}
const asked = (part: string): boolean => what === 'all' || what === part;
if (asked('accuracy'))
  await benchAccuracy(process.argv[3], process.argv[4] ? Number(process.argv[4]) : undefined);
if (asked('film')) await benchFilm();
if (asked('kernels')) {
  await benchWarp();
  await benchKernels();
}
if (asked('pipeline')) await benchPipeline(5);
if (asked('import')) await benchImport(5);
if (asked('viewer')) await benchViewer();
if (what === 'long') await benchLong(process.argv[3]);
if (what === 'mutations') await benchMutations(Number(process.argv[3] ?? 1000));
