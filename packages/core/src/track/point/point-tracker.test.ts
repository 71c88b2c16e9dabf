import { expect, test } from '@jest/globals';
import { apply, invert, translation, type Mat3 } from '../../geometry/mat3.js';
import { poseMatrix, identityPose } from '../../geometry/pose.js';
import { makePlane, type Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { defaultPointOptions } from '../options.js';
import { PointTracker } from './point-tracker.js';
import { placeIn, SampleState, type Place } from '../samples.js';

const kernels = new TrackKernels(kernelModule());
const width = 240;
const height = 200;

// Looked up once: in the test runner every look at a global costs.
const { sin, cos, min, max, round, floor, exp, imul } = Math;

/** A texture one can look at anywhere, without a second place alike. */
const texture = (x: number, y: number): number =>
  128 +
  40 * sin(x * 0.21 + 1.3 * sin(y * 0.037)) +
  34 * sin(y * 0.17 + 1.1 * sin(x * 0.043)) +
  20 * sin((x + y) * 0.083 + 0.7);

/** The texture, turned and grown about the middle, then shifted, with some noise. */
function shot(move: { x: number; y: number; angle: number; size: number }, noise = 0, gain = 1): Plane {
  const plane = makePlane(width, height);
  const c = cos(-move.angle) / move.size;
  const s = sin(-move.angle) / move.size;
  let seed = 1 + round(1000 * move.x);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const dx = x + 0.5 - width / 2 - move.x;
      const dy = y + 0.5 - height / 2 - move.y;
      seed = (imul(seed, 1664525) + 1013904223) >>> 0;
      const level = gain * texture(c * dx - s * dy, s * dx + c * dy) + noise * (seed / 2 ** 31 - 1) * 1.7;
      plane.data[y * width + x] = min(max(round(level), 0), 255);
    }
  }
  return plane;
}

const still = { x: 0, y: 0, angle: 0, size: 1 };

function followAll(
  path: (k: number) => typeof still,
  noise: number,
  gain: (k: number) => number = () => 1,
): number {
  const tracker = new PointTracker(kernels, defaultPointOptions);
  tracker.setKey(shot(path(0), noise), {
    x: width / 2 + path(0).x,
    y: height / 2 + path(0).y,
    rotation: 0,
    scale: 1,
  });
  let squares = 0;
  const count = 24;
  for (let k = 1; k <= count; k++) {
    const sample = tracker.step(shot(path(k), noise, gain(k)));
    expect(sample.state).toBe(SampleState.tracked);
    squares += (sample.x - width / 2 - path(k).x) ** 2 + (sample.y - height / 2 - path(k).y) ** 2;
  }
  return Math.sqrt(squares / count);
}

test('a shifting point is found to a twentieth of a pixel', () => {
  expect(followAll((k) => ({ ...still, x: 0.37 + 1.4 * k * cos(k / 9), y: 9 * sin(k / 4) }), 0)).toBeLessThan(
    0.05,
  );
});

test('turning and growing, with noise, it is found to a tenth', () => {
  const path = (k: number) => ({ x: 0.6 * k, y: 5 * sin(k / 5), angle: 0.006 * k, size: 1 + 0.005 * k });
  expect(followAll(path, 2)).toBeLessThan(0.1);
});

test('a change of brightness does not move it', () => {
  expect(
    followAll(
      (k) => ({ ...still, x: k }),
      1,
      (k) => 1 - 0.006 * k,
    ),
  ).toBeLessThan(0.05);
});

test('a covered point is lost, not guessed', () => {
  const tracker = new PointTracker(kernels, defaultPointOptions);
  tracker.setKey(shot(still), { x: 120, y: 100, rotation: 0, scale: 1 });
  const covered = makePlane(width, height);
  covered.data.fill(90);
  const sample = tracker.step(covered);
  expect(sample.state).toBe(SampleState.lost);
  expect(sample.confidence).toBeLessThan(0.6);
});

test('a box that leaves the picture is lost', () => {
  const tracker = new PointTracker(kernels, defaultPointOptions);
  tracker.setKey(shot(still), { x: 120, y: 100, rotation: 0, scale: 1 });
  tracker.resumeFrom({ x: -400, y: 100, rotation: 0, scale: 1 });
  expect(tracker.step(shot(still)).state).toBe(SampleState.lost);
});

test('where a search finds the point for certain nobody need look at the whole picture', () => {
  const tracker = new PointTracker(kernels, defaultPointOptions);
  tracker.setKey(shot(still, 1), { x: 120, y: 100, rotation: 0, scale: 1 });
  let asked = 0;
  const scene = () => {
    asked++;
    return { motion: null, cut: true };
  };
  // Farther than a registration reaches, no farther than a point that has just been placed may go.
  const sample = tracker.step(shot({ ...still, x: 9, y: -7 }, 1), scene);
  expect(Math.hypot(sample.x - 129, sample.y - 93)).toBeLessThan(0.05);
  expect(asked).toBe(0);
  // Where it does not, the picture is asked, and a cut ends it.
  const other = makePlane(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) other.data[y * width + x] = round(spots(x + 400, y + 300));
  expect(tracker.step(other, scene).state).toBe(SampleState.lost);
  expect([asked, tracker.cut]).toEqual([1, true]);
});

/** Something with a pattern of its own that has come in over the picture from the left, as far as x. */
function coveredTo(edge: number, plane: Plane): Plane {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < min(edge, width); x++)
      plane.data[y * width + x] = round(texture(edge - x + 300, y + 500));
  return plane;
}

test.each([1, 2, 3, 4, 5, 6, 7, 8])(
  'what comes in the way %i frames after the key is noticed on its frame, not at the next thorough look',
  (first) => {
    const tracker = new PointTracker(kernels, { ...defaultPointOptions, threshold: 0.1 });
    tracker.setKey(shot(still, 2), { x: 120, y: 100, rotation: 0, scale: 1 });
    const at = (k: number) => ({ ...still, x: 0.6 * k, y: 0.3 * k });
    for (let k = 1; k < first; k++) expect(tracker.step(shot(at(k), 2)).confidence).toBeGreaterThan(0.8);
    // A box of 41 px about x = 120: two fifths of it, then nearly all, are hidden at once.
    const partly = tracker.step(coveredTo(116, shot(at(first), 2)));
    const off = Math.hypot(partly.x - 120 - at(first).x, partly.y - 100 - at(first).y);
    expect(off < 0.5 || partly.confidence < 0.8).toBe(true);
    const wholly = tracker.step(coveredTo(137, shot(at(first + 1), 2)));
    expect(wholly.confidence).toBeLessThan(0.5);
  },
);

/** Soft random spots, nowhere alike. */
function spots(x: number, y: number): number {
  let level = 128;
  const [left, top] = [floor(x / 9), floor(y / 9)];
  for (let j = top - 1; j <= top + 1; j++)
    for (let i = left - 1; i <= left + 1; i++) {
      const seed = imul(imul(i, 374761393) ^ imul(j, 668265263), 1274126177) >>> 8;
      const [dx, dy] = [x - 9 * i - (seed & 7), y - 9 * j - ((seed >> 3) & 7)];
      level += ((seed >> 6) & 127) * 1.6 * exp(-(dx * dx + dy * dy) / 14) - 12;
    }
  return level;
}

/** One texture that slowly turns into the other. */
function changing(share: number, shift: number): Plane {
  const plane = makePlane(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      plane.data[y * width + x] = round(
        (1 - share) * texture(x - width / 2 - shift, y - height / 2) + share * spots(x - shift, y),
      );
  return plane;
}

test('a look that changes wholly and comes back is followed, and what had drifted is taken back', () => {
  const tracker = new PointTracker(kernels, { ...defaultPointOptions, model: 'translation' });
  tracker.setKey(changing(0, 0), { x: 120.3, y: 100.2, rotation: 0, scale: 1 });
  const errors: number[] = [];
  const steps = 160;
  for (let k = 1; k <= steps; k++) {
    const share = 0.5 - 0.5 * cos((2 * Math.PI * k) / steps);
    const sample = tracker.step(changing(share, 0.21 * k));
    expect(sample.state).toBe(SampleState.tracked);
    errors.push(Math.hypot(sample.x - 120.3 - 0.21 * k, sample.y - 100.2));
  }
  // Halfway two pictures lie over each other and pull both ways; back at the old look the key decides again.
  expect(max(...errors)).toBeLessThan(1.5);
  expect(max(...errors.slice(-5))).toBeLessThan(0.03);
});

test('one of many is looked at in a quarter of its pixels, but in all of them where there is grain', () => {
  const path = (k: number) => ({ ...still, x: 0.83 * k, y: 0.57 * k });
  const follow = (noise: number, sparing: boolean): { x: number; y: number; error: number }[] => {
    const tracker = new PointTracker(kernels, defaultPointOptions, false, sparing);
    tracker.setKey(shot(path(0), noise), { x: 120, y: 100, rotation: 0, scale: 1 });
    return Array.from({ length: 16 }, (_, i) => {
      const move = path(i + 1);
      const drift = { x: 0.83, y: 0.57 };
      const { x, y } = tracker.step(shot(move, noise), undefined, drift);
      return { x, y, error: Math.hypot(x - 120 - move.x, y - 100 - move.y) };
    });
  };
  // Grain of a deviation of two levels is a variance of four.
  expect(follow(2, true)).toEqual(follow(2, false));
  const [few, all] = [follow(0, true), follow(0, false)];
  expect(few).not.toEqual(all);
  for (const { error } of [...few, ...all]) expect(error).toBeLessThan(0.05);
});

test.each(['translation', 'euclidean', 'similarity', 'affine', 'homography'] as const)(
  '%s: sixty frames without drift',
  (model) => {
    const tracker = new PointTracker(kernels, { ...defaultPointOptions, model });
    tracker.setKey(shot(still), { x: 120, y: 100, rotation: 0, scale: 1 });
    for (let k = 1; k <= 60; k++) {
      const move = { ...still, x: 20 * sin(k / 7), y: 12 * sin(k / 5) };
      const sample = tracker.step(shot(move, 1));
      expect(Math.hypot(sample.x - 120 - move.x, sample.y - 100 - move.y)).toBeLessThan(0.08);
      expect(sample.scale).toBeCloseTo(1, 2);
    }
  },
);

/** The texture seen through a matrix that takes the first picture to this one, about the middle of both. */
function seenThrough(m: Mat3): Plane {
  const plane = makePlane(width, height);
  const back = invert(m);
  plane.data.forEach((_, i) => {
    const p = apply(back, (i % width) + 0.5 - 120, floor(i / width) + 0.5 - 100);
    plane.data[i] = round(texture(p.x, p.y));
  });
  return plane;
}

test.each([
  ['affine', { stretch: 0.0022, shear: -0.0016, tiltX: 0, tiltY: 0 }],
  ['homography', { stretch: 0.001, shear: 0.0012, tiltX: 1.2e-5, tiltY: -1e-5 }],
] as const)(
  '%s: samples keep all of the pose that was solved, on from a second key and after a break',
  (model, bend) => {
    const truth = (k: number): Place => ({
      x: 0.4 * k,
      y: 0.3 * k,
      rotation: 0.003 * k,
      scale: 1 + 0.002 * k,
      stretch: bend.stretch * k,
      shear: bend.shear * k,
      tiltX: bend.tiltX * k,
      tiltY: bend.tiltY * k,
    });
    const picture = (k: number): Plane => seenThrough(poseMatrix(truth(k)));
    const tracker = new PointTracker(kernels, { ...defaultPointOptions, model });
    const place = (k: number): Place => ({ ...truth(k), x: 120 + truth(k).x, y: 100 + truth(k).y });
    tracker.setKey(picture(0), place(0));
    for (let k = 1; k <= 24; k++) {
      // A second key stands as the thing stood there; then a pass goes on from a sample, with that key's look.
      if (k === 9) tracker.setKey(picture(8), place(8));
      if (k === 17) tracker.resumeFrom(place(16));
      const found = tracker.step(picture(k));
      expect(found.state).toBe(SampleState.tracked);
      const [is, was] = [placeIn(found), place(k)].map(poseMatrix);
      // Corners of the box: a similarity would be off by half a pixel and more at the end.
      for (const [u, v] of [
        [-20, -20],
        [20, -20],
        [20, 20],
        [-20, 20],
      ]) {
        const [p, q] = [apply(is, u, v), apply(was, u, v)];
        expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeLessThan(0.12);
      }
    }
    const similar = {
      ...identityPose,
      x: place(24).x,
      y: place(24).y,
      rotation: place(24).rotation,
      scale: place(24).scale,
    };
    const [p, q] = [similar, place(24)].map((pose) => apply(poseMatrix(pose), 20, 20));
    expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeGreaterThan(0.5);
  },
);

/** Lines of writing, all but alike, every eighteen pixels, and where a knocked camera sees them. */
const lines = (dy: number): Plane => {
  const plane = makePlane(width, height);
  plane.data.forEach((_, i) => {
    const [x, y] = [(i % width) + 0.5 - 120, floor(i / width) + 0.5 - dy - 100];
    const line = round(y / 18);
    const ink = exp(-((y - 18 * line) ** 2) / 8) * (1 + 0.5 * sin(x / 3) + 0.06 * sin(x / 5 + 2 * line));
    plane.data[i] = round(200 - 90 * ink);
  });
  return plane;
};
const knocks = Array.from({ length: 40 }, (_, k) => (k > 0 ? 6 * sin(1.9 * k) + 4 * sin(2.6 * k) : 0));

test.each([
  ['flow that went to the next line is not believed where the whole picture says otherwise', true],
  ['without flow the whole picture tells the lines apart', false],
])('%s', (_, withFlow) => {
  const tracker = new PointTracker(kernels, defaultPointOptions);
  tracker.setKey(lines(0), { x: 120, y: 100, rotation: 0, scale: 1 });
  for (let k = 1; k < knocks.length; k++) {
    const y = knocks[k] - knocks[k - 1];
    const scene = () => ({ motion: translation(0, y), cut: false });
    // Every seventh time the flow takes one line for another.
    const drift = withFlow ? { x: 0, y: k % 7 === 0 ? y + 18 : y } : undefined;
    const sample = tracker.step(lines(knocks[k]), scene, drift);
    expect(Math.hypot(sample.x - 120, sample.y - 100 - knocks[k])).toBeLessThan(0.2);
  }
});

test('a leap to a double is not called sure from there on, until a key says what it is', () => {
  // Two spots alike in a plain field; the followed one goes out, and the other is as good.
  const spots = (left: number, right: number, dx: number): Plane => {
    const plane = makePlane(width, height);
    const spot = (x: number, y: number): number => exp(-(x * x + y * y) / 18) * (1 + 0.3 * sin(x));
    plane.data.forEach((_, i) => {
      const [x, y] = [(i % width) + 0.5 - dx, floor(i / width) + 0.5];
      plane.data[i] = round(60 + left * spot(x - 100, y - 100) + right * spot(x - 126, y - 100));
    });
    return plane;
  };
  const tracker = new PointTracker(kernels, { ...defaultPointOptions, template: { width: 21, height: 21 } });
  tracker.setKey(spots(120, 116, 0), { x: 100, y: 100, rotation: 0, scale: 1 });
  for (let k = 1; k <= 10; k++)
    expect(tracker.step(spots(120, 116, 0.2 * k)).confidence).toBeGreaterThan(0.8);
  for (let k = 11; k <= 30; k++) {
    const { x, confidence, state } = tracker.step(spots(0, 116, 0.2 * k));
    if (state === SampleState.tracked && x > 120) expect(confidence).toBeLessThan(0.8);
  }
  tracker.setKey(spots(0, 116, 6), { x: 132, y: 100, rotation: 0, scale: 1 });
  expect(tracker.step(spots(0, 116, 6.2)).confidence).toBeGreaterThan(0.8);
});

/** Two boards alike on plain ground, the second `away` pixels to the right; a board may be out of sight. */
const boards = (left: number, away: number, sight: [boolean, boolean]): Plane => {
  const plane = makePlane(width, height);
  plane.data.forEach((_, i) => {
    const [x, y] = [(i % width) + 0.5, floor(i / width) + 0.5];
    let level = 90 + 2 * sin(x / 3 + sin(y / 2));
    for (const [k, shown] of sight.entries()) {
      const [u, v] = [x - left - k * away, y - 100];
      if (shown && Math.abs(u) < 16 && Math.abs(v) < 16) level = spots(u + 60, v + 40);
    }
    plane.data[i] = min(max(round(level), 0), 255);
  });
  return plane;
};

test('a double that no search has seen is not taken for the point silently when the point is out of sight', () => {
  // The search reaches 30 px about the point, the distractor is 36 px away; going on as it went, the search comes to it.
  const options = { ...defaultPointOptions, search: { width: 101, height: 101 }, threshold: 0.3 };
  const tracker = new PointTracker(kernels, options, true);
  tracker.setKey(boards(60, 36, [true, true]), { x: 60, y: 100, rotation: 0, scale: 1 });
  for (let k = 1; k <= 12; k++) {
    const { x, confidence } = tracker.step(boards(60 + 2 * k, 36, [true, true]));
    expect(Math.abs(x - 60 - 2 * k)).toBeLessThan(0.1);
    expect(confidence).toBeGreaterThan(0.8);
  }
  // Both go out of sight, and the distractor comes back first.
  for (let k = 13; k <= 24; k++) {
    const { confidence } = tracker.step(boards(60 + 2 * k, 36, [false, k >= 16]));
    expect(confidence).toBeLessThan(0.8);
  }
});

test('a leap that the whole picture has made as well is no reason for doubt', () => {
  const after = (motion: { x: number; y: number }): number => {
    const tracker = new PointTracker(kernels, defaultPointOptions);
    tracker.setKey(shot(still, 1), { x: 120, y: 100, rotation: 0, scale: 1 });
    for (let k = 1; k <= 12; k++) tracker.step(shot({ ...still, x: 0.2 * k }, 1));
    const knocked = { ...still, x: 18, y: -12 };
    const scene = () => ({ motion: translation(motion.x, motion.y), cut: false });
    tracker.step(shot(knocked, 1), scene);
    const { x, y, confidence } = tracker.step(shot(knocked, 1), () => ({
      motion: translation(0, 0),
      cut: false,
    }));
    expect(Math.hypot(x - 138, y - 88)).toBeLessThan(0.1);
    return confidence;
  };
  expect(after({ x: 15.6, y: -12 })).toBeGreaterThan(0.9);
  expect(after({ x: 0, y: 0 })).toBeLessThan(0.8);
});

test('behind a post it is thought to go on as it was going when it went there', () => {
  const tracker = new PointTracker(kernels, { ...defaultPointOptions, threshold: 0.3 }, true);
  // Ever faster downwards before a picture that stands still; the post comes in from the left, four pixels a frame.
  const y = (k: number): number => 40 + 0.05 * k * k;
  const seen = (k: number): Plane => {
    const plane = makePlane(width, height);
    plane.data.forEach((_, i) => {
      const [u, v] = [(i % width) + 0.5, floor(i / width) + 0.5];
      const onBoard = Math.abs(u - 120) < 26 && Math.abs(v - y(k)) < 26;
      const level = onBoard ? spots(u - 20, v - y(k) + 100) : texture(u, v);
      const post = 98 + 4 * (k - 24);
      plane.data[i] = min(max(round(u < post && u > post - 90 ? 60 : level), 0), 255);
    });
    return plane;
  };
  const scene = () => ({ motion: translation(0, 0), cut: false });
  tracker.setKey(seen(0), { x: 120, y: y(0), rotation: 0, scale: 1 });
  let missing = 0;
  for (let k = 1; k <= 40; k++) {
    const sample = tracker.step(seen(k), scene);
    if (sample.state !== SampleState.lost) continue;
    missing++;
    // Its own speed when it was last seen well is known; what it gains after that, a tenth of a pixel a frame, is not.
    const unknown = 0.05 * (missing + 4) ** 2;
    expect(Math.hypot(sample.x - 120, sample.y - y(k))).toBeLessThan(unknown + 2);
  }
  expect(missing).toBeGreaterThan(6);
});

test('what goes with the picture is not looked for elsewhere: its double beside it is left alone', () => {
  const tracker = new PointTracker(kernels, { ...defaultPointOptions, threshold: 0.3 }, true);
  const scene = () => ({ motion: translation(2, 0), cut: false });
  tracker.setKey(boards(60, 40, [true, true]), { x: 60, y: 100, rotation: 0, scale: 1 });
  for (let k = 1; k <= 40; k++) {
    // Out of sight for ten frames, when the distractor is all there is to be found.
    const hidden = k > 20 && k <= 30;
    const { x, confidence, state } = tracker.step(boards(60 + 2 * k, 40, [!hidden, true]), scene);
    expect(state).toBe(hidden ? SampleState.lost : SampleState.tracked);
    expect(Math.abs(x - 60 - 2 * k)).toBeLessThan(hidden ? 0.5 : 0.1);
    if (!hidden) expect(confidence).toBeGreaterThan(0.8);
  }
});
