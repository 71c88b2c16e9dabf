import { describe, expect, test } from '@jest/globals';
import { identity, translation, type Mat3 } from '../../geometry/mat3.js';
import { similarityMatrix } from '../../geometry/similarity.js';
import type { Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { shootLevels } from '../../testing/film.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { crossing, disc, grit, plus } from '../../testing/marks.js';
import { defaultPointOptions } from '../options.js';
import { PointTracker } from '../point/point-tracker.js';
import { SampleState } from '../samples.js';
import type { WarpModel } from '../../geometry/warp-model.js';
import { prepareTemplate } from './prepare-template.js';
import { freeTemplate } from '../template/types.js';

const { cos, hypot, sin, abs } = Math;
const kernels = new TrackKernels(kernelModule());
const side = 160;
const box = { width: 41, height: 41 };

type Levels = (x: number, y: number) => number;

interface Move {
  x: number;
  y: number;
  angle: number;
  size: number;
}
const still: Move = { x: 0, y: 0, angle: 0, size: 1 };

/** A mark in the picture's middle that has moved, turned and grown. */
function shot(mark: Levels, { x, y, angle, size }: Move, deviation: number, grain: () => number): Plane {
  const [c, s] = [cos(angle) / size, sin(angle) / size];
  const level: Levels = (u, v) => {
    const [dx, dy] = [u - side / 2, v - side / 2];
    return mark(c * dx + s * dy, c * dy - s * dx);
  };
  return shootLevels(side, level, x, y, deviation, grain);
}

describe('what a template does not tell', () => {
  /** The ways that are damped: how each turns and grows the box, and the lever of all. */
  function weakModes(mark: Levels, beside: { x: number; y: number }, model: WarpModel = 'similarity') {
    const plane = shot(mark, still, 1, grainFrom(5));
    const template = prepareTemplate(kernels, plane, { x: 80.5 + beside.x, y: 80.5 + beside.y }, box, model);
    const ways = template.weakModes.filter(({ latest }) => latest < 0.04).map(({ motion }) => motion);
    freeTemplate(kernels, template);
    return { ways, weakModeDrift: template.weakModeDrift, centroidOffset: template.centroidOffset };
  }

  test('how a disc turns, about its own middle: the box, beside it, goes along', () => {
    for (const [x, y] of [
      [0, 0],
      [4, 0],
      [-2, 3],
    ]) {
      const { ways, weakModeDrift, centroidOffset } = weakModes(disc(8), { x, y });
      expect(centroidOffset).toBeCloseTo(hypot(x + 0.5, y + 0.5), 0);
      expect(ways).toHaveLength(1);
      const [, , grow, turn] = ways[0];
      expect(abs(grow)).toBeLessThan(0.1 * abs(turn));
      // Turned by a radian about the disc's middle the box's goes as far as it lies from there: the cut is at half pixels.
      expect(weakModeDrift).toBeGreaterThan(0.8 * hypot(x, y));
      expect(weakModeDrift).toBeLessThan(hypot(x, y) + 1.2);
    }
  });

  test('how a crossing grows, but how it turns', () => {
    const { ways } = weakModes(crossing, { x: 0, y: 0 });
    expect(ways).toHaveLength(1);
    const [, , grow, turn] = ways[0];
    expect(abs(turn)).toBeLessThan(0.1 * abs(grow));
  });

  test('nothing where there are ends and corners', () => {
    expect(weakModes(plus(12), { x: 1, y: 2 }).ways).toEqual([]);
    expect(weakModes(plus(12), { x: 1, y: 2 }, 'affine').ways).toEqual([]);
  });

  test('a mere shift is always told apart', () => {
    expect(weakModes(disc(8), { x: 4, y: 0 }, 'translation')).toEqual({
      ways: [],
      weakModeDrift: 0,
      centroidOffset: 0,
    });
  });
});

describe('following it', () => {
  const swaying = (k: number): Move => ({ ...still, x: 9 * sin(k / 7), y: 6 * sin(k / 5) });
  const centroidOffset = { x: 4, y: 1 };

  interface Film {
    path?: (k: number) => Move;
    model?: WarpModel;
    /** Grey levels of grain, and of grain that a codec has smoothed into specks. */
    deviation?: number;
    specks?: number;
    /** Whether the whole picture moves as the mark does, and turns with it. */
    along?: 'turning' | 'shifting' | 'not at all';
    frames?: number;
  }

  /** Follows a place beside a mark: how far off it is on each frame, and what turn and growth are wrong. */
  function follow(mark: Levels, beside: { x: number; y: number }, film: Film = {}) {
    const { path = swaying, model = 'similarity', deviation = 2, specks = 0, frames = 60 } = film;
    const { along = 'shifting' } = film;
    const grain = grainFrom(9);
    const picture = (k: number): Plane => {
      const { x, y } = path(k);
      const speckled: Levels = (u, v) => mark(u, v) + (specks && specks * grit(u + x + 500 * k, v + y));
      return shot(speckled, path(k), deviation, grain);
    };
    const motionTo = (k: number): Mat3 => {
      const [before, now] = [path(k - 1), path(k)];
      const moved = {
        x: now.x - before.x,
        y: now.y - before.y,
        rotation: now.angle - before.angle,
        scale: 1,
      };
      const about = { x: side / 2 + before.x, y: side / 2 + before.y };
      if (along === 'turning') return similarityMatrix(moved, about);
      return along === 'shifting' ? translation(moved.x, moved.y) : identity;
    };
    const tracker = new PointTracker(kernels, { ...defaultPointOptions, model });
    const [first, middle] = [path(0), side / 2];
    const key = { x: middle + first.x + beside.x, y: middle + first.y + beside.y, rotation: 0, scale: 1 };
    tracker.setKey(picture(0), key);
    const found = Array.from({ length: frames }, (_, i) => {
      const k = i + 1;
      const { x, y, angle, size } = path(k);
      const sample = tracker.step(picture(k), () => ({ cut: false, motion: motionTo(k) }));
      const [a, b] = [size * cos(angle), size * sin(angle)];
      const truth = {
        x: middle + x + a * beside.x - b * beside.y,
        y: middle + y + b * beside.x + a * beside.y,
      };
      const off = hypot(sample.x - truth.x, sample.y - truth.y);
      return { ...sample, off, turned: abs(sample.rotation - angle), grown: abs(sample.scale / size - 1) };
    });
    tracker.dispose();
    return found;
  }

  test('grain does not turn a disc, nor take a box beside it along', () => {
    for (const model of ['euclidean', 'similarity', 'affine'] as const)
      for (const { turned, off, confidence } of follow(disc(6), centroidOffset, { model })) {
        expect(turned).toBeLessThan(0.03);
        // A lever of four pixels times that, and what a shift has.
        expect(off).toBeLessThan(0.2);
        expect(confidence).toBeGreaterThan(0.75);
      }
  });

  test('nor does grain that a codec has smoothed into specks', () => {
    for (const { turned, off } of follow(disc(5), centroidOffset, { deviation: 0, specks: 4 })) {
      expect(turned).toBeLessThan(0.04);
      expect(off).toBeLessThan(0.25);
    }
  });

  test('grain does not make a crossing grow', () => {
    for (const { grown, off } of follow(crossing, { x: 3, y: 2 })) {
      expect(grown).toBeLessThan(0.03);
      expect(off).toBeLessThan(0.2);
    }
  });

  test('a disc turns as the whole picture does, so that a box beside it keeps its place', () => {
    const path = (k: number): Move => ({ ...swaying(k), angle: 0.3 * sin(k / 20) });
    for (const { turned, off } of follow(disc(6), centroidOffset, { path, along: 'turning' })) {
      expect(turned).toBeLessThan(0.05);
      expect(off).toBeLessThan(0.25);
    }
  });

  test('a disc that grows is followed in that', () => {
    const path = (k: number): Move => ({ ...swaying(k), size: 1 + 0.3 * sin(k / 25) });
    for (const { grown, off } of follow(disc(8), { x: 1, y: 1 }, { path })) {
      expect(grown).toBeLessThan(0.03);
      expect(off).toBeLessThan(0.2);
    }
  });

  test('what goes its own way, and may turn in it unseen, is doubtful beside its middle and sure upon it', () => {
    const path = (k: number): Move => ({ ...swaying(k), x: 2.5 * k - 30 });
    const rolling: Film = { path, along: 'not at all', frames: 30 };
    for (const { confidence, state } of follow(disc(6), { x: 7, y: 0 }, rolling).slice(10)) {
      expect(state).toBe(SampleState.tracked);
      expect(confidence).toBeLessThan(0.8);
    }
    for (const { confidence } of follow(disc(6), { x: 0, y: 0 }, rolling).slice(10))
      expect(confidence).toBeGreaterThan(0.8);
  });

  test('a faint texture beside a strong disc tells how both turn', () => {
    const path = (k: number): Move => ({ ...swaying(k), angle: k < 20 ? 0 : 0.012 * (k - 20) });
    const gritty: Levels = (x, y) => disc(7)(x, y) + 8 * grit(x, y);
    for (const { turned, off } of follow(gritty, { x: 5, y: 0 }, { path, deviation: 1 })) {
      expect(turned).toBeLessThan(0.03);
      expect(off).toBeLessThan(0.2);
    }
  });
});
