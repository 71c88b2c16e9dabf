import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { format, resolveConfig } from 'prettier';
import { benchAccuracy } from './accuracy/accuracy.js';
import { benchFilm } from './film.js';
import { benchImport } from './import.js';
import { benchKernels } from './kernels.js';
import { benchLong } from './long.js';
import { benchMutations } from './mutations.js';
import { benchLayers } from './layers.js';
import { benchPipeline } from './pipeline.js';
import { benchHardships } from './region-hardships.js';
import { benchRegion } from './region.js';
import { benchScene } from './scene.js';
import { renew, type Table } from './tables.js';
import { benchViewer } from './viewer.js';
import { benchWarp } from './warp.js';

// npm run bench                 everything but the last two, as ratios against a yardstick in the same run
// npm run bench -- accuracy     tracking against generated truth; a condition's name or "all" may follow, and how many at once
// npm run bench -- film         points suggested on the demo film, and scores, against its truth
// npm run bench -- kernels      warping; flow, corners, template search against OpenCV, where it is installed
// npm run bench -- pipeline     tracking, export, memory
// npm run bench -- layers       export with layers
// npm run bench -- scene        the whole picture's motion: against its truth, a bare decode, and the same job with OpenCV
// npm run bench -- region       a flat region: against a bare decode, and the same job with OpenCV
// npm run bench -- import       reading a clip against bare decode, scale and encode
// npm run bench -- viewer       steps, seeks and playing in the browser
// npm run bench -- long         10,000 frames, and 4K, through server and page; "4k" may follow
// npm run bench -- mutations    damaged files through import; how many may follow, else 1000
// npm run bench -- report       everything, or the parts that follow, and writes their tables into docs/measured.md
const parts: Record<string, (arguments_: string[]) => Promise<Table[]>> = {
  accuracy: ([condition, atOnce]) => benchAccuracy(condition, atOnce ? Number(atOnce) : undefined),
  film: benchFilm,
  kernels: async () => [...(await benchWarp()), ...(await benchKernels())],
  pipeline: () => benchPipeline(5),
  layers: () => benchLayers(3),
  scene: () => benchScene(3),
  region: async () => [benchHardships(), ...(await benchRegion(3))],
  import: () => benchImport(5),
  viewer: benchViewer,
  long: ([only]) => benchLong(only),
  mutations: ([count]) => benchMutations(Number(count ?? 1000)),
};
const usual = ['accuracy', 'film', 'kernels', 'pipeline', 'layers', 'scene', 'region', 'import', 'viewer'];
const path = (from: string): string => fileURLToPath(new URL(from, import.meta.url));

const [what = 'all', ...more] = process.argv.slice(2);
const reports = what === 'report';
const wanted = reports ? (more.length > 0 ? more : usual) : what === 'all' ? usual : [what];
const unknown = wanted.find((name) => !(name in parts));
if (unknown !== undefined) {
  const names = Object.keys(parts).join(', ');
  console.error(`There is no bench "${unknown}"; choose ${names} or report, or give none for all.`);
  process.exit(2);
}
if (!existsSync(path('../../demo/clips/quay.mp4'))) {
  console.error(
    'The demo film is not there yet; run npm run demo once, or node demo/dist/main.js demo/clips.',
  );
  process.exit(1);
}
// Part by part, so that what was measured is kept when a later one breaks off.
const measured = path('../../docs/measured.md');
for (const name of wanted) {
  const tables = await parts[name](reports ? [] : more);
  if (!reports) continue;
  const text = renew(readFileSync(measured, 'utf8'), tables);
  writeFileSync(measured, await format(text, { ...(await resolveConfig(measured)), filepath: measured }));
}
