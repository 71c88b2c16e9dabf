import {
  deflation,
  euclideanModel,
  exposureRows,
  fitBias,
  fitGain,
  fitGathered,
  fitResidual,
  fitScore,
  fitTrusted,
  fitVariance,
  fitWeight,
  homographyModel,
  leastSpread,
  nowhere,
  pixelSetAspect,
  pixelSetCount,
  pixelSetDamping,
  pixelSetDescent,
  pixelSetGrain,
  pixelSetHeight,
  pixelSetLevel,
  pixelSetMean,
  pixelSetReach,
  pixelSetRuns,
  pixelSetSpacing,
  pixelSetWidth,
  settled,
  similarityModel,
  unsettled,
} from '../src/kernels/layout';
import { gather, medianResidual, moments } from './registration';
import { samplePatch, sampleRuns } from './sampling';

// The way of a registration from its start to where the template fits: inverse-compositional Gauss-Newton
// (Baker & Matthews 2004) with gain and bias solved beside the motion, and Cauchy weights, squared where much of the box
// is not believed, so that a covered part of it does not pull.

// @ts-ignore: decorator
@inline const maxIterations: i32 = 20;
/** Steps shorter than this, in pixels at the box's corner, and it looks closer. */
// @ts-ignore: decorator
@inline const nearly: f64 = 0.1;
/** Nor need it come closer than this share of the error that is to be expected anyway. */
// @ts-ignore: decorator
@inline const pointless: f64 = 0.1;
/** After so many steps it looks closer all the same; after so many closer ones they must shrink. */
// @ts-ignore: decorator
@inline const mostCoarse: i32 = 8;
// @ts-ignore: decorator
@inline const mostAimless: i32 = 5;
// @ts-ignore: decorator
@inline const shrinking: f64 = 0.8;
/** Farther from its start than this, in pixels, the fit has run away. */
// @ts-ignore: decorator
@inline const leash: f64 = 4;
/** 2.385 is the Cauchy constant of 95 % efficiency, 1.4826 the normal spread of a median. */
// @ts-ignore: decorator
@inline const cauchy: f64 = 2.385 * 1.4826;
/** Where less than this share of the box is believed, something is in the way. */
// @ts-ignore: decorator
@inline const covered: f64 = 0.78;
/** Half of the variance of normal residuals, as a share of their squared median size. */
// @ts-ignore: decorator
@inline const evenShare: f64 = (1.4826 * 1.4826) / 2;
// @ts-ignore: decorator
@inline const leastGain: f64 = 0.02;
/** Pixels of shift that a slope may be off by before it counts as something else: on the way, and at the end. */
// @ts-ignore: decorator
@inline const coarseSlack: f32 = 1.2;
// @ts-ignore: decorator
@inline const fineSlack: f32 = 0.3;
/** Near the end steps fall short by a sixth or more, and this share of one is usually left after it. */
// @ts-ignore: decorator
@inline const usualStride: f64 = 1.2;
// @ts-ignore: decorator
@inline const unfinished: f64 = 0.25;
/** The longest leap ahead, in steps. */
// @ts-ignore: decorator
@inline const longestLeap: f64 = 8;

/** Room for a step, all since the start, the last one, a Cholesky factor and two matrices, for at most ten parameters. */
const step = memory.data(8 * 10);
const travelled = memory.data(8 * 10);
const last = memory.data(8 * 10);
const factor = memory.data(8 * 100);
const turn = memory.data(8 * 9);
const product = memory.data(8 * 9);

// @ts-ignore: decorator
@inline
function at(block: usize, index: i32): f64 {
  return load<f64>(block + (<usize>index << 3));
}

// @ts-ignore: decorator
@inline
function put(block: usize, index: i32, value: f64): void {
  store<f64>(block + (<usize>index << 3), value);
}

/** Cholesky solution of a symmetric positive definite system; false when it is (nearly) singular. */
function solveSymmetric(matrix: usize, right: usize, n: i32, x: usize): bool {
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = at(matrix, i * n + j);
      for (let k = 0; k < j; k++) sum -= at(factor, i * n + k) * at(factor, j * n + k);
      if (i == j) {
        if (!(sum > 1e-9 * at(matrix, i * n + i))) return false;
        put(factor, i * n + i, sqrt(sum));
      } else put(factor, i * n + j, sum / at(factor, j * n + j));
    }
  }
  for (let i = 0; i < n; i++) {
    let value = at(right, i);
    for (let k = 0; k < i; k++) value -= at(factor, i * n + k) * at(x, k);
    put(x, i, value / at(factor, i * n + i));
  }
  for (let i = n - 1; i >= 0; i--) {
    let value = at(x, i);
    for (let k = i + 1; k < n; k++) value -= at(factor, k * n + i) * at(x, k);
    put(x, i, value / at(factor, i * n + i));
  }
  return true;
}

/** Takes the motion that the step stands for off `matrix`, from the box's side: matrix ← matrix · increment⁻¹. */
function takeOff(matrix: usize, model: i32, reach: f64, aspect: f64): void {
  const r = 1 / reach;
  let a = 1.0;
  let b = 0.0;
  let c = 0.0;
  let d = 1.0;
  let g = 0.0;
  let h = 0.0;
  const x = at(step, exposureRows);
  const y = at(step, exposureRows + 1);
  const p2 = at(step, exposureRows + 2) * r;
  const p3 = at(step, exposureRows + 3) * r;
  if (model == euclideanModel) {
    a = d = Math.cos(p2);
    c = Math.sin(p2) * aspect;
    b = -Math.sin(p2) / aspect;
  } else if (model == similarityModel) {
    a = d = 1 + p2;
    b = -p3 / aspect;
    c = p3 * aspect;
  } else if (model > similarityModel) {
    a = 1 + p2;
    b = p3;
    c = at(step, exposureRows + 4) * r;
    d = 1 + at(step, exposureRows + 5) * r;
    if (model == homographyModel) {
      g = at(step, exposureRows + 6) * r * r;
      h = at(step, exposureRows + 7) * r * r;
    }
  }
  // The adjugate of (a b x; c d y; g h 1): its inverse but for a factor, which counts for nothing.
  put(turn, 0, d - y * h);
  put(turn, 1, x * h - b);
  put(turn, 2, b * y - x * d);
  put(turn, 3, y * g - c);
  put(turn, 4, a - x * g);
  put(turn, 5, x * c - a * y);
  put(turn, 6, c * h - d * g);
  put(turn, 7, b * g - a * h);
  put(turn, 8, a * d - b * c);
  for (let i = 0; i < 3; i++)
    for (let j = 0; j < 3; j++) {
      let sum = 0.0;
      for (let k = 0; k < 3; k++) sum += at(matrix, 3 * i + k) * at(turn, 3 * k + j);
      put(product, 3 * i + j, sum);
    }
  const whole = 1 / at(product, 8);
  for (let i = 0; i < 9; i++) put(matrix, i, at(product, i) * whole);
}

/**
 * Weights that follow the residuals make the steps shrink by the same share each time. How many steps like this
 * one still lie ahead then follows from the last two (Aitken 1926).
 */
function farAhead(n: i32): f64 {
  let both = 0.0;
  let squares = 0.0;
  let mine = 0.0;
  for (let i = exposureRows; i < n; i++) {
    both += at(last, i) * at(step, i);
    squares += at(last, i) * at(last, i);
    mine += at(step, i) * at(step, i);
  }
  const alike = both / sqrt(squares * mine);
  return alike > 0.9 ? min(1 / max(1 - both / squares, 1 / longestLeap), longestLeap) : 1;
}

/** The Cramér-Rao bound along the direction that holds the box least, pixels. */
function expectedError(normal: usize, n: i32, variance: f64): f64 {
  const xx = at(normal, exposureRows * n + exposureRows);
  const xy = at(normal, exposureRows * n + exposureRows + 1);
  const yy = at(normal, (exposureRows + 1) * n + exposureRows + 1);
  const half = (xx - yy) / 2;
  const least = (xx + yy) / 2 - sqrt(half * half + xy * xy);
  return least > 0 ? sqrt((<f64>deflation * variance) / least) : 0;
}

/** Room for a step's sums, and for the rows that are being summed. */
const sums = memory.data(8 * 80);
const scratch = memory.data(4 * 1024);

/** Zero-mean normalised correlation of template and picture from their moments. */
// @ts-ignore: decorator
@inline
function correlation(): f64 {
  const total = at(sums, 0);
  const l = at(sums, 1);
  const s = at(sums, 2);
  const spread = (at(sums, 3) - (l * l) / total) * (at(sums, 5) - (s * s) / total);
  return spread > 1e-6 ? (at(sums, 4) - (l * s) / total) / sqrt(spread) : 0;
}

/**
 * Registers pixels of a template in the plane at `src`.
 *
 * `pixelSet` and `fit` are laid out as ../src/kernels/layout tells. Of the pixels: addresses of `n` rows of steepest descent
 * and of the grey levels less their mean, floats; how many they are; width, height and spacing of the box they are taken
 * from, or the address of runs, as `sampleRuns` takes them, or 0; the mean; the length that turning is counted in; a
 * pixel's aspect; the variance of the template's own noise, at most; the address of n·n f64 that hold motion other than
 * shift to where it starts, for each unit of weight.
 *
 * The fit, in: the matrix from the box to the plane's corner-origin pixels, where to start; the exposure known before, with
 * gain 0 when none is; the residual that is to be expected, or 0; the sum of weights that `normal` was gathered with. Out:
 * the matrix where it fits; gain, bias, median residual, variance of the weighted residuals, the sum of weights that
 * `normal` was gathered with; the correlation of template and picture, the same where each pixel counts as far as it is
 * believed, and the sum of the weights.
 *
 * Residuals above `most` grey levels are something in the way. `close` begins with fine sampling, `sameLight` with the
 * known exposure unseen; with `sameMatrix` the matrix that `normal` holds, n·n f64, serves all the way, and, close,
 * the residual that is to be expected: then few steps are enough. It ends where less than `enough` pixels are likely to
 * be left. `seen` and `weight` have room for a float for each pixel.
 * It is unsettled when its steps were still longer than that when it gave up; nowhere when it ran away from its start or
 * less than half of the box lies in the picture.
 */
export function descend(
  pixelSet: usize,
  n: i32,
  model: i32,
  src: usize,
  stride: i32,
  left: f32,
  top: f32,
  right: f32,
  bottom: f32,
  fit: usize,
  most: f64,
  close: bool,
  sameLight: bool,
  sameMatrix: bool,
  enough: f64,
  seen: usize,
  weight: usize,
  normal: usize,
): i32 {
  const descent = <usize>at(pixelSet, pixelSetDescent);
  const level = <usize>at(pixelSet, pixelSetLevel);
  const count = <i32>at(pixelSet, pixelSetCount);
  const width = <i32>at(pixelSet, pixelSetWidth);
  const height = <i32>at(pixelSet, pixelSetHeight);
  const spacing = at(pixelSet, pixelSetSpacing);
  const runs = <usize>at(pixelSet, pixelSetRuns);
  const mean = at(pixelSet, pixelSetMean);
  const reach = at(pixelSet, pixelSetReach);
  const aspect = at(pixelSet, pixelSetAspect);
  const grain = at(pixelSet, pixelSetGrain);
  const damping = <usize>at(pixelSet, pixelSetDamping);
  const pose = fit;
  const all = runs ? count : width * height;
  const knownGain = at(fit, fitGain);
  const knownBias = at(fit, fitBias);
  const knownResidual = sameMatrix && close ? at(fit, fitResidual) : 0;
  const startX = at(pose, 2);
  const startY = at(pose, 5);
  let gain = 1.0;
  let bias = mean;
  let residual = knownResidual;
  let spread = residual > 0 ? cauchy * max(min(residual, most), leastSpread) : 0;
  let variance = 0.0;
  let gathered = sameMatrix ? at(fit, fitGathered) : 1.0;
  let hasLast = false;
  let fine = close;
  let closer = 0;
  let moved = Infinity;
  let stretch = 1.0;
  let held = knownResidual > 0;
  memory.fill(travelled, 0, 8 * 10);
  let done = false;
  let squared = false;
  let wasSquared = false;
  for (let iteration = 0; iteration < maxIterations; iteration++) {
    const m0 = <f32>(at(pose, 0) * spacing);
    const m1 = <f32>(at(pose, 1) * spacing);
    const m2 = <f32>at(pose, 2);
    const m3 = <f32>(at(pose, 3) * spacing);
    const m4 = <f32>(at(pose, 4) * spacing);
    const m5 = <f32>at(pose, 5);
    const m6 = <f32>(at(pose, 6) * spacing);
    const m7 = <f32>(at(pose, 7) * spacing);
    const m8 = <f32>at(pose, 8);
    let inside = 0;
    if (runs)
      inside = sampleRuns(src, stride, left, top, right, bottom, runs, count, m0, m1, m2, m3, m4, m5, m6, m7, m8, fine, seen);
    else
      inside = samplePatch(src, stride, left, top, right, bottom, width, height, m0, m1, m2, m3, m4, m5, m6, m7, m8, fine, seen);
    if (inside * 2 < all) return nowhere;
    if (iteration == 0 && sameLight) {
      gain = knownGain;
      bias = knownBias;
    } else if (iteration == 0) {
      moments(level, seen, 0, count, <f32>mean, sums);
      const total = at(sums, 0);
      const l = at(sums, 1);
      const s = at(sums, 2);
      const solved = (at(sums, 4) - (l * s) / total) / (at(sums, 3) - (l * l) / total);
      const usable = solved > leastGain;
      const offset = (s - solved * l) / total + mean;
      // Where it is no brighter nor darker than it was, the light is as it was.
      const asBright = held && abs((s - knownGain * l) / total + mean - knownBias) < max(knownResidual, 1);
      if (
        knownGain > 0 &&
        (asBright ||
          !usable ||
          medianResidual(level, seen, count, <f32>knownGain, <f32>knownBias, scratch) <
            medianResidual(level, seen, count, <f32>solved, <f32>offset, scratch))
      ) {
        gain = knownGain;
        bias = knownBias;
      } else if (usable) {
        gain = solved;
        bias = offset;
      } else return nowhere;
    }
    // Held fast once it has stopped shrinking, so that the last steps run towards one place.
    if (!held && (fine || iteration % 3 == 0)) {
      residual = medianResidual(level, seen, count, <f32>gain, <f32>bias, scratch);
      // On the way all may be believed a little; at the end only what fits as it did before.
      const next = cauchy * max(fine ? min(residual, most) : residual, leastSpread);
      held = fine && next > 0.9 * spread;
      spread = next;
    }
    // The matrix changes little on the way: it is gathered at the start, and again when looking closer.
    const whole = !sameMatrix && (iteration == 0 || (fine && !hasLast) || squared != wasSquared) ? 1 : 0;
    wasSquared = squared;
    const slack = fine ? fineSlack : coarseSlack;
    gather(
      descent,
      n,
      count,
      level,
      seen,
      <f32>gain,
      <f32>bias,
      <f32>spread,
      slack,
      whole,
      squared,
      weight,
      scratch,
      sums,
    );
    const total = at(sums, n);
    variance = at(sums, n + 1) / max(total, 1);
    squared = fine && total < covered * <f64>inside;
    if (whole) {
      gathered = total;
      for (let i = 0, from = n + 2; i < n; i++)
        for (let j = i; j < n; j++, from++) {
          put(normal, i * n + j, at(sums, from));
          put(normal, j * n + i, at(sums, from));
        }
    }
    // The template's own grain counts as contrast that no picture has: left in, the gain comes out too low and what is
    // left of the texture pulls. At most half of what is left over is the template's (errors in variables, Fuller 1987).
    const left = min(residual, most) / gain;
    const noise = min(grain, evenShare * left * left);
    if (whole) {
      for (let i = exposureRows + 2; i < n; i++)
        for (let j = exposureRows + 2; j < n; j++)
          put(normal, i * n + j, at(normal, i * n + j) + at(damping, i * n + j) * gathered);
      put(normal, n + 1, at(normal, n + 1) - noise * gathered);
    }
    put(sums, 1, at(sums, 1) + noise * total);
    for (let i = 0; i < n; i++) put(sums, i, (at(sums, i) * gathered) / total);
    // What is damped is held to where it started.
    for (let i = exposureRows + 2; i < n; i++)
      for (let j = exposureRows + 2; j < n; j++)
        put(sums, i, at(sums, i) - at(damping, i * n + j) * at(travelled, j) * gathered);
    if (!solveSymmetric(normal, sums, n, step)) return nowhere;
    // A third counts of what turns and grows the box about its middle.
    const before = moved;
    let others = 0.0;
    for (let i = exposureRows + 2; i < n; i++) others += at(step, i) * at(step, i);
    const x = at(step, exposureRows);
    const y = at(step, exposureRows + 1);
    moved = sqrt(x * x + y * y) + sqrt(others) / 3;
    const leap = stretch == usualStride && hasLast && held ? farAhead(n) : 1;
    if (fine) {
      memory.copy(last, step, n << 3);
      hasLast = true;
    }
    stretch = fine ? usualStride * leap : 1;
    for (let i = 0; i < n; i++) {
      put(step, i, at(step, i) * stretch);
      put(travelled, i, at(travelled, i) + at(step, i));
    }

    // The template moved by the step; the picture's motion takes the inverse of that.
    bias += gain * at(step, 0);
    gain *= 1 + at(step, 1);
    takeOff(pose, model, reach, aspect);
    const awayX = at(pose, 2) - startX;
    const awayY = at(pose, 5) - startY;
    const size = abs(at(pose, 0) * at(pose, 4) - at(pose, 1) * at(pose, 3));
    if (!(awayX * awayX + awayY * awayY < leash * leash && size > 0.04 && size < 25 && gain > leastGain)) return nowhere;
    if (held && unfinished * moved * leap < max(enough, pointless * expectedError(normal, n, variance))) {
      done = true;
      break;
    }
    if (fine && ++closer > mostAimless && moved > shrinking * before) break;
    if (moved < nearly || iteration + 1 == mostCoarse) fine = true;
  }
  put(fit, fitGain, gain);
  put(fit, fitBias, bias);
  // Where a registration with a matrix from before starts is not where it ends.
  if (sameMatrix) residual = medianResidual(level, seen, count, <f32>gain, <f32>bias, scratch);
  put(fit, fitResidual, residual);
  put(fit, fitVariance, variance);
  put(fit, fitGathered, gathered);
  moments(level, seen, 0, count, <f32>mean, sums);
  put(fit, fitScore, correlation());
  moments(level, seen, weight, count, <f32>mean, sums);
  put(fit, fitTrusted, correlation());
  put(fit, fitWeight, at(sums, 0));
  return done ? settled : unsettled;
}
