import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  heightBeside,
  layOut,
  stageViews,
  wholePicture as whole,
  wholePictures as both,
  zoomAbout,
} from './panes';

const clip = { width: 1920, height: 1080, pixelAspect: 1 };
const stage = fc.record({
  width: fc.integer({ min: 300, max: 2400 }),
  height: fc.integer({ min: 200, max: 1400 }),
});

test('the whole picture fits its pane, in the middle of it', () => {
  fc.assert(
    fc.property(
      stage,
      fc.constantFrom('twin' as const, 'source' as const, 'steadied' as const),
      (size, view) => {
        for (const pane of layOut(view, size, clip, both, 0.5)) {
          const left = pane.shiftX - pane.x;
          const right = pane.x + pane.width - (pane.shiftX + pane.scaleX * clip.width);
          const top = pane.shiftY - pane.y;
          const bottom = pane.y + pane.height - (pane.shiftY + pane.scaleY * clip.height);
          for (const room of [left, right, top, bottom]) expect(room).toBeGreaterThan(-1e-6);
          expect(left).toBeCloseTo(right, 6);
          expect(top).toBeCloseTo(bottom, 6);
          // One of the two directions is filled.
          expect(Math.min(left, top)).toBeCloseTo(0, 6);
        }
      },
    ),
  );
});

test('wide pixels are shown wide', () => {
  const wide = { width: 1440, height: 1080, pixelAspect: 4 / 3 };
  const [pane] = layOut('source', { width: 960, height: 540 }, wide, both, 0.5);
  expect([pane.scaleX * 1440, pane.scaleY * 1080]).toEqual([960, 540]);
});

test('twin panes are alike and do not overlap, beside or above each other', () => {
  fc.assert(
    fc.property(stage, (size) => {
      const [source, steadied] = layOut('twin', size, clip, both, 0.5);
      expect([source.kind, steadied.kind]).toEqual(['source', 'steadied']);
      expect(steadied.scaleX).toBe(source.scaleX);
      expect(steadied.x >= source.x + source.width || steadied.y >= source.y + source.height).toBe(true);
    }),
  );
  expect(layOut('twin', { width: 1000, height: 300 }, clip, both, 0.5)[1].y).toBe(0);
  expect(layOut('twin', { width: 500, height: 900 }, clip, both, 0.5)[1].x).toBe(0);
});

test('a wipe shows both at the same place, the whole stage wide', () => {
  const size = { width: 900, height: 500 };
  const [source, steadied] = layOut('wipe', size, clip, both, 0.3);
  expect([source.width, steadied.x, steadied.width]).toEqual([270, 270, 630]);
  expect([steadied.shiftX, steadied.shiftY, steadied.scaleX]).toEqual([
    source.shiftX,
    source.shiftY,
    source.scaleX,
  ]);
});

test('zooming keeps the clip point under the cursor', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0.3, max: 3, noNaN: true }),
      fc.double({ min: 20, max: 470, noNaN: true }),
      fc.double({ min: 20, max: 380, noNaN: true }),
      (factor, x, y) => {
        const size = { width: 1000, height: 400 };
        const near = { zoom: 2, centreX: 0.45, centreY: 0.6 };
        const look = { source: near, steadied: near, held: near };
        const [before] = layOut('twin', size, clip, look, 0.5);
        const [after] = layOut(
          'twin',
          size,
          clip,
          zoomAbout(look, before, { x, y }, factor, { alone: false }),
          0.5,
        );
        const point = (pane: typeof before) => [
          (x - pane.shiftX) / pane.scaleX,
          (y - pane.shiftY) / pane.scaleY,
        ];
        expect(point(after)[0]).toBeCloseTo(point(before)[0], 6);
        expect(point(after)[1]).toBeCloseTo(point(before)[1], 6);
      },
    ),
  );
});

test('zoom has its limits, and every view its panes', () => {
  const [pane] = layOut('source', { width: 960, height: 540 }, clip, both, 0.5);
  const zoom = (factor: number, alone = false) =>
    zoomAbout(both, pane, { x: 480, y: 270 }, factor, { alone });
  expect(zoom(1000).steadied.zoom).toBe(40);
  expect(zoom(1e-6).source.zoom).toBe(0.25);
  // By itself: the other stays as it is.
  expect([zoom(2, true).source.zoom, zoom(2, true).steadied]).toEqual([2, whole]);
  expect(stageViews.map((view) => layOut(view, { width: 960, height: 540 }, clip, both, 0.5).length)).toEqual(
    [2, 1, 1, 2, 1, 1, 2],
  );
  // What is held lies otherwise, and is magnified by itself.
  expect(zoom(2).held).toEqual(whole);
  const [held] = layOut('held', { width: 960, height: 540 }, clip, both, 0.5);
  const closer = zoomAbout(both, held, { x: 200, y: 200 }, 2, { alone: false });
  expect([closer.held.zoom, closer.source]).toEqual([2, whole]);
});

test('a stage as high as the pictures need leaves no bands', () => {
  const width = 990;
  const height = heightBeside(width, clip);
  const panes = layOut('twin', { width, height }, clip, both, 0.5);
  const filled = panes.reduce((sum, p) => sum + p.scaleX * clip.width * p.scaleY * clip.height, 0);
  expect(filled / (width * height)).toBeGreaterThan(0.98);
});

test('a wipe shows the picture by other settings, of its own shape, in place of the source', () => {
  const square = { width: 540, height: 540, pixelAspect: 1 };
  const [left, right] = layOut('wipe', { width: 960, height: 540 }, clip, both, 0.3, clip, square);
  expect([left.kind, left.isOther, left.picture]).toEqual(['steadied', true, { width: 540, height: 540 }]);
  expect([right.kind, right.isOther, right.x]).toEqual(['steadied', undefined, 288]);
});
