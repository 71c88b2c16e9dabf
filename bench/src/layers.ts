import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  carryLayers,
  identity,
  noFraming,
  similarityMatrix,
  type CarriedLayer,
  type LayerPicture,
} from '@lurn/core';
import { readLayer } from '@lurn/model';
import {
  encodingFor,
  frameTimes,
  indexClip,
  openClip,
  runTool,
  type Clip,
  type ClipIndex,
} from '@lurn/media';
import { placeStep, WorkerPool, type DressStep } from '@lurn/pipeline';
import { inTurns, seconds } from './rounds.js';
import { addRow, beginTable, type Table } from './tables.js';

const quay = fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url));

const box = (left: number, top: number, right: number, bottom: number) => ({
  parts: [
    {
      spline: {
        knots: [
          { x: left, y: top },
          { x: right, y: top },
          { x: right, y: bottom },
          { x: left, y: bottom },
        ],
      },
    },
  ],
});

/** A picture over a quarter of the frame in perspective, a cover by mosaic, a change of colours where there is one colour. */
function layersFor(clip: Clip, index: ClipIndex): CarriedLayer[] {
  const key = { colour: [0.55, 0.3, 0.2], range: 0.15, softness: 0.1, keep: 'inside' };
  const views = [
    {
      name: 'Picture',
      content: { kind: 'picture', asset: 'p', quad: [300, 200, 1290, 230, 1240, 760, 320, 730] },
    },
    {
      name: 'Cover',
      content: { kind: 'cover', how: 'mosaic', strength: 20 },
      shape: { ...box(1300, 300, 1560, 560), featherOut: 8 },
    },
    { name: 'Colour', content: { kind: 'colour', hue: 1 }, shape: box(200, 600, 700, 960), key },
  ];
  const carriers = {
    clip: { width: clip.width, height: clip.height, pixelAspect: '1:1', times: frameTimes(index, clip) },
    ...{ tracks: new Map(), scene: null },
  };
  const carried = carryLayers(
    views.map((view) => readLayer(view, index.pts.length)),
    carriers,
    new Map(),
  );
  // As if they rode on something: masks and places are other ones on each frame.
  for (const { carriage } of carried)
    for (let k = 0; k < index.pts.length; k++)
      carriage.frameFromLayer.set(
        similarityMatrix(
          { x: 6 * Math.sin(k / 7), y: 5 * Math.cos(k / 6), rotation: 0, scale: 1 },
          { x: 0, y: 0 },
        ),
        9 * k,
      );
  return carried;
}

/** Soft waves: what is laid should be as easy to encode as what it hides. */
function somePicture(): LayerPicture {
  const [width, height] = [1200, 675];
  const rgba = new Uint8Array(4 * width * height);
  for (let i = 0; i < rgba.length; i++) {
    const [x, y] = [(i >> 2) % width, Math.floor((i >> 2) / width)];
    rgba[i] = (i & 3) === 3 ? 255 : 128 + 90 * Math.sin(x / 23 + (i & 3)) * Math.cos(y / 31);
  }
  return { width, height, rgba };
}

/** Export with layers against the same without, and against the length of the clip. */
export async function benchLayers(rounds: number): Promise<Table[]> {
  const table = beginTable('layers', 'Export with layers, 1080p, against the same without', [
    ...['what', 'ours', 'yardstick', 'ratio', 'goal'],
  ]);
  const folder = await mkdtemp(join(tmpdir(), 'lurn-layers-'));
  const pool = new WorkerPool();
  try {
    const short = join(folder, 'short.mp4');
    await runTool('ffmpeg', ['-v', 'error', '-i', quay, '-t', '4', '-c', 'copy', '-y', short]);
    const clip = await openClip(short);
    const index = await indexClip(clip);
    const last = index.pts.length - 1;
    const placements = new Float64Array(9 * index.pts.length);
    for (let k = 0; k <= last; k++) placements.set(identity, 9 * k);
    const place = placeStep({ placements, rows: null, zooms: null }, clip, {
      framing: { ...noFraming, zoom: 1.05 },
    });
    const write =
      (layers: CarriedLayer[]): (() => Promise<void>) =>
      () => {
        const dress: DressStep = { kind: 'dress', layers, pictures: new Map([['p', somePicture()]]) };
        return pool.run(
          {
            ...{ kind: 'export', clip, index, first: 0, last },
            steps: layers.length > 0 ? [dress, place] : [place],
            encoding: encodingFor({}, clip, false),
            path: join(folder, 'out.mp4'),
          },
          () => undefined,
        );
      };
    const all = layersFor(clip, index);
    const plain = write([]);
    for (const [name, layers, goal] of [
      ['all three', all, 1.25],
      ...all.map((one) => [one.layer.name.toLowerCase(), [one], ''] as const),
    ] as const) {
      const { ours, yardstick, ratio } = await inTurns(goal === '' ? 1 : rounds, write([...layers]), plain);
      addRow(
        table,
        `${name}, ${index.pts.length} frames`,
        seconds(ours),
        seconds(yardstick),
        ratio.toFixed(2),
        goal,
      );
    }
    return [table];
  } finally {
    await pool.close();
    await rm(folder, { recursive: true, force: true });
  }
}
