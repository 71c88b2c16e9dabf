import { expect, test } from '@jest/globals';
import { carryLayers } from '../dress/film.js';
import { operationsAt } from '../dress/operations.js';
import { patchFrames } from '../dress/patch.js';
import { movedStroke, type Stroke } from '../dress/stroke.js';
import { layerOf } from '../testing/layer-of.js';
import { evenTimes } from '../geometry/frame-times.js';
import { grainFrom } from '../testing/grain.js';
import { Samples, SampleState } from '../track/samples.js';
import { dressPicture } from './dress-picture.js';
import { patchPicture } from './patch-picture.js';
import type { LayerPicture } from './picture-sampler.js';
import { strokeCoverage } from './stroke-coverage.js';
import { yuvOf } from './dressed.js';
import type { YuvFormat } from './yuv-picture.js';

const clip = { width: 200, height: 120, pixelAspect: '1:1', times: evenTimes(20, 25) };
const format: YuvFormat = {
  ...{ width: 200, height: 120, subsampling: '444', siting: 'left', range: 'full', bits: 8 },
};

/** A wall that goes two pixels to the right a frame, by a lamp that goes up and down. */
const wall = (x: number, y: number): number => 110 + 40 * Math.sin(x * 0.21) + 30 * Math.cos(y * 0.17);
const lamp = (frame: number): number => 1 + 0.02 * (frame - 8);
/** A scratch on it, drawn on the eighth frame; beside it on a sixteenth of the frames a sign hangs. */
const scratched = (x: number, y: number): boolean => Math.abs(y - 60) < 2 && x > 80 && x < 130;

function shot(frame: number): LayerPicture {
  const rgba = new Uint8Array(4 * clip.width * clip.height);
  for (let y = 0; y < clip.height; y++)
    for (let x = 0; x < clip.width; x++) {
      const at = x - 2 * (frame - 8);
      const level = lamp(frame) * (scratched(at, y) ? 30 : wall(at, y));
      rgba.set([level, 0.9 * level, 0.8 * level, 255], 4 * (y * clip.width + x));
    }
  return { width: clip.width, height: clip.height, rgba };
}

const along = [80, 60, 1, 105, 60, 1, 130, 60, 1];

function carried(strokes: Partial<Stroke>[], view: object = {}) {
  const samples = new Samples(20);
  for (let k = 0; k < 20; k++)
    samples.set(k, {
      ...{ x: 80 + 2 * k, y: 50, rotation: 0, scale: 1, confidence: 0.9, state: SampleState.tracked },
    });
  const layer = layerOf(
    {
      ...{ name: 'Scratch', frame: 8, content: { kind: 'repair', strokes } },
      ...{ carrier: { kind: 'tracks', trackIds: ['wall'], model: 'shift' } },
      ...view,
    },
    20,
  );
  return carryLayers([layer], { clip, tracks: new Map([['wall', samples]]), scene: null }, new Map())[0];
}

const read = (frame: number) => Promise.resolve(shot(frame));

/** How far what a repair shows is from the wall without the scratch, where it paints wholly. */
async function farOff(strokes: Partial<Stroke>[]): Promise<number> {
  const one = carried(strokes);
  const made = await patchPicture(one, 8, read);
  if (!made || !one.box) throw new Error('There is a picture of it.');
  let worst = 0;
  for (let y = 0; y < made.height; y++)
    for (let x = 0; x < made.width; x++) {
      const at = 4 * (y * made.width + x);
      if (made.rgba[at + 3] < 255) continue;
      worst = Math.max(worst, Math.abs(made.rgba[at] - wall(one.box.left + x, one.box.top + y)));
    }
  return worst;
}

test('what is healed has the light of what is about it, what is cloned that of where it was taken', async () => {
  // A wave of the wall is 29.9 pixels long: one aside it is nearly the same, half of one aside it is far off.
  expect(await farOff([{ how: 'clone', points: along, width: 12, from: 8, aside: [0, 37] }])).toBeLessThan(4);
  // Aside by parts of a pixel, too.
  const between = [0.1 + 0.2, 36.7] as const;
  expect(await farOff([{ how: 'clone', points: along, width: 12, from: 8, aside: between }])).toBeLessThan(6);
  const far = [0, 20] as const;
  const cloned = await farOff([{ how: 'clone', points: along, width: 12, from: 8, aside: far }]);
  const healed = await farOff([{ how: 'heal', points: along, width: 12, from: 8, aside: far }]);
  expect(cloned).toBeGreaterThan(30);
  // What bends between the borders is the source's own: that is left.
  expect(healed).toBeLessThan(cloned / 2);
});

test('what is cloned from another frame lies where it belongs, in this frame’s light', async () => {
  // On every frame the same scratch: aside as before, and as bright as on the frame it is put into.
  const strokes = [{ how: 'clone' as const, points: along, width: 12, from: 15, aside: [0, 37] as const }];
  expect(await farOff(strokes)).toBeLessThan(6);
});

test('a colour covers by its strength, once or adding up, and is taken away again', () => {
  const box = { left: 0, top: 0, right: 60, bottom: 40 };
  const there = { how: 'colour', points: [10, 20, 1, 50, 20, 1], width: 16, strength: 0.5, soft: 0 } as const;
  const back = { ...there, points: [...there.points, 10, 20, 1] };
  const middle = (stroke: object): number => {
    const [read] = [carried([stroke]).layer.content].flatMap((c) => (c.kind === 'repair' ? c.strokes : []));
    return strokeCoverage(read, box)[20 * 60 + 30];
  };
  expect(middle(there)).toBeCloseTo(0.5, 5);
  expect(middle(back)).toBeCloseTo(0.5, 5);
  // Four dabs to a width: on their way each place has about four of them, and on the way back once more.
  expect(middle({ ...there, buildUp: true })).toBeGreaterThan(0.4);
  expect(middle({ ...back, buildUp: true })).toBeGreaterThan(0.65);
  // A pen that is pressed half paints half as wide.
  const pressed = { ...there, points: [10, 20, 0.5, 50, 20, 0.5] };
  const [thin] = [carried([pressed]).layer.content].flatMap((c) => (c.kind === 'repair' ? c.strokes : []));
  const column = Array.from({ length: 40 }, (_, y) => strokeCoverage(thin, box)[y * 60 + 30]);
  expect(column.filter((v) => v > 0.25)).toHaveLength(8);
});

test('each set of strokes that is seen on some frames is a picture by itself; on others nothing is drawn', async () => {
  const colour = {
    how: 'colour' as const,
    points: [100, 60, 1],
    width: 20,
    soft: 0,
    colour: [1, 0, 0] as const,
  };
  const one = carried([
    { ...colour, first: 2, last: 9 },
    { ...colour, how: 'erase', width: 26, first: 6, last: 12 },
  ]);
  expect(patchFrames(one.layer)).toEqual([2, 6, 10]);
  expect(operationsAt([one], 1)).toEqual([]);
  expect(operationsAt([one], 13)).toEqual([]);
  const paintedOn = async (frame: number): Promise<number> =>
    Math.max(...((await patchPicture(one, frame, read))?.rgba ?? []).filter((_, i) => i % 4 === 3));
  expect(await Promise.all([2, 6, 10].map(paintedOn))).toEqual([255, 0, 0]);
  const [stroke] = one.layer.content.kind === 'repair' ? one.layer.content.strokes : [];
  expect(movedStroke(stroke, 3, -4).points).toEqual([103, 56, 1]);
});

test('put back it takes on each frame’s light and its grain, and beyond the paint no level changes', async () => {
  const strokes = [
    { how: 'clone' as const, points: along, width: 12, soft: 0, from: 8, aside: [0, 37] as const },
  ];
  const one = carried(strokes);
  const picture = await patchPicture(one, 8, read);
  if (!picture) throw new Error('There is a picture of it.');
  const grain = grainFrom(5);
  for (const frame of [2, 17]) {
    const levels = new Uint8Array(3 * 200 * 120);
    for (let y = 0; y < 120; y++)
      for (let x = 0; x < 200; x++) {
        const at = x - 2 * (frame - 8);
        const grey = (lamp(frame) * (scratched(at, y) ? 30 : wall(at, y))) / 255;
        yuvOf([grey, 0.9 * grey, 0.8 * grey], format).forEach((v, c) => {
          levels[c * 200 * 120 + y * 200 + x] = v + (c === 0 ? 3 * grain() : 0) + 0.5;
        });
      }
    const before = levels.slice();
    const operations = operationsAt([one], frame);
    const [{ content }] = operations;
    if (content.kind !== 'picture') throw new Error('A repair is drawn as a picture.');
    dressPicture(levels, format, operations, new Map([[content.asset, picture]]));
    let [sum, square, count] = [0, 0, 0];
    for (let y = 0; y < 120; y++)
      for (let x = 0; x < 200; x++) {
        const at = x - 2 * (frame - 8);
        const k = y * 200 + x;
        if (Math.abs(y - 60) > 7 || at < 73 || at > 137) expect(levels[k]).toBe(before[k]);
        if (Math.abs(y - 60) > 3 || at < 85 || at > 125) continue;
        const [wanted] = yuvOf(
          [1, 0.9, 0.8].map((c) => (c * lamp(frame) * wall(at, y)) / 255) as unknown as [
            number,
            number,
            number,
          ],
          format,
        );
        sum += levels[k] - wanted;
        square += (levels[k] - wanted) ** 2;
        count++;
      }
    // The lamp alone would make it 12 and 18 levels too bright or dark.
    expect(Math.abs(sum / count)).toBeLessThan(2.5);
    expect(Math.sqrt(square / count - (sum / count) ** 2)).toBeGreaterThan(2.2);
    expect(Math.sqrt(square / count - (sum / count) ** 2)).toBeLessThan(4.5);
  }
});
