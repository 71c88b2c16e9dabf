import {
  cornerKnot,
  cornersFromCentre,
  defaultFollowOptions,
  PointPass,
  regionOn,
  regionOptions,
  Samples,
  SampleState,
  type Quad,
} from '@lurn/core';
import { board, cornersAt, darkScreen, FlatFilm, type FlatThing, type Hardship } from '@lurn/core/testing';
import { startTrackKernels } from './track-kernels.js';
import { addRow, beginTable, type Table } from './tables.js';

const degree = Math.PI / 180;
const frames = 60;
/** As lenses and sensors see things. */
const real = { blur: 1.6, grain: 1 };

const hardships: [name: string, Hardship][] = [
  ['moved alone', { frames, ...real }],
  ['turned away by 50°', { frames, ...real, yaw: 50 * degree }],
  ['scale 0.6 to 1.6', { frames, ...real, growth: 1 }],
  ['light ± 30 %', { frames, ...real, light: 0.3 }],
  ['grain σ 5', { frames, ...real, grain: 5 }],
  ['blur 5 px', { frames, ...real, blur: 5 }],
  ['a bar over a third, 30 frames', { frames, ...real, bar: { share: 1 / 3, first: 10, last: 39 } }],
  ['all covered, 15 frames', { frames, ...real, cover: { first: 20, last: 34 } }],
  ['a quarter outside', { frames, ...real, outside: 0.25 }],
  [
    'all at half strength',
    {
      ...{ frames, yaw: 25 * degree, growth: 0.5, light: 0.15, grain: 2.5, blur: 2.5, outside: 0.125 },
      ...{ bar: { share: 1 / 6, first: 5, last: 34 }, cover: { first: 40, last: 47 } },
    },
  ],
  ['600 frames, turned by 20°', { frames: 600, ...real, yaw: 20 * degree }],
];

/** How exactly flat things are followed through what is done to them, against truth. */
export function benchHardships(): Table {
  const table = beginTable('region', 'Regions through hardships, corners against truth, px RMS', [
    ...['what', 'a board', 'a dark screen', 'sure within 0.75 px', 'lost', 'ms a frame'],
  ]);
  for (const [name, hardship] of hardships) {
    const runs = [board, darkScreen].map((thing) => follow(thing, hardship));
    const [sure, near] = (['sure', 'near'] as const).map((part) =>
      runs.reduce((sum, run) => sum + run[part], 0),
    );
    addRow(
      ...([table, name, runs[0].rms.toFixed(3), runs[1].rms.toFixed(3)] as const),
      `${((100 * near) / Math.max(sure, 1)).toFixed(1)} % of ${sure}`,
      runs.map(({ lost }) => lost).join(', '),
      (runs.reduce((sum, { ms }) => sum + ms, 0) / 2).toFixed(1),
    );
  }
  return table;
}

function follow(thing: FlatThing, hardship: Hardship) {
  const film = new FlatFilm(thing, hardship);
  const corners = cornersAt(thing, hardship, 0);
  const region = regionOn(0, [{ knots: corners.map(cornerKnot) }], corners as unknown as Quad);
  const samples = new Samples(hardship.frames);
  samples.corners = cornersFromCentre(region);
  samples.set(0, { ...region.centre, rotation: 0, scale: 1, confidence: 1, state: SampleState.placed });
  const options = {
    ...defaultFollowOptions,
    ...({ model: 'homography', below: 'mark' } as const),
    region: regionOptions(region, () => null),
  };
  const pass = new PointPass(startTrackKernels(), options, samples);
  const run = { rms: 0, sure: 0, near: 0, lost: 0, ms: 0 };
  let squares = 0;
  let found = 0;
  for (let k = 0; k < hardship.frames; k++) {
    const picture = film.shoot(k);
    const begun = performance.now();
    pass.look(picture, k);
    run.ms += (performance.now() - begun) / hardship.frames;
    if (k === 0) continue;
    if (!samples.found(k)) {
      run.lost++;
      continue;
    }
    const truth = cornersAt(thing, hardship, k);
    const off = samples.cornersAt(k).map(({ x, y }, i) => Math.hypot(x - truth[i].x, y - truth[i].y));
    squares += off.reduce((sum, d) => sum + d * d, 0) / 4;
    found++;
    if (samples.confidence[k] >= 0.8) {
      run.sure++;
      if (Math.max(...off) <= 0.75) run.near++;
    }
  }
  pass.dispose();
  return { ...run, rms: Math.sqrt(squares / found) };
}
