/** The residual, a colour's levels, at which what is solved for is told from the solution no more. */
const smallEnough = 0.02;
const mostSteps = 500;

/**
 * Brings what is laid into a picture to that one's light and colour at the border (Pérez, Gangnet & Blake 2003, with the source's
 * own gradients): how the two differ along the border goes on inside as a membrane does. Both have three numbers a pixel; `inside`
 * is 1 where something is laid. What is not a number, beyond a picture, is no border. Returns the source, fitted inside.
 */
export function healed(
  source: Float32Array,
  target: Float32Array,
  inside: Uint8Array,
  width: number,
): Float32Array {
  const height = inside.length / width;
  const unknowns: number[] = [];
  const place = new Int32Array(inside.length).fill(-1);
  inside.forEach((is, k) => {
    if (is && source[3 * k] === source[3 * k]) place[k] = unknowns.push(k) - 1;
  });
  const beside = new Int32Array(4 * unknowns.length).fill(-1);
  const count = new Float32Array(unknowns.length);
  const border: [unknown: number, pixel: number][] = [];
  unknowns.forEach((k, i) => {
    const [x, y] = [k % width, Math.floor(k / width)];
    const near = [
      x > 0 ? k - 1 : -1,
      x < width - 1 ? k + 1 : -1,
      y > 0 ? k - width : -1,
      y < height - 1 ? k + width : -1,
    ];
    near.forEach((other, n) => {
      if (other < 0) return;
      if (place[other] >= 0) beside[4 * i + n] = place[other];
      else if (source[3 * other] === source[3 * other] && target[3 * other] === target[3 * other])
        border.push([i, other]);
      else return;
      count[i]++;
    });
  });
  const made = source.slice();
  if (border.length === 0) return made;
  for (let c = 0; c < 3; c++) {
    const wanted = new Float32Array(unknowns.length);
    let mean = 0;
    for (const [i, k] of border) {
      const differs = target[3 * k + c] - source[3 * k + c];
      wanted[i] += differs;
      mean += differs / border.length;
    }
    const membrane = solved(wanted, beside, count, mean);
    unknowns.forEach((k, i) => (made[3 * k + c] += membrane[i]));
  }
  return made;
}

/** Solves count · e − Σ neighbours' e = wanted by conjugate gradients (Hestenes & Stiefel 1952), from one value everywhere. */
function solved(wanted: Float32Array, beside: Int32Array, count: Float32Array, start: number): Float32Array {
  const n = wanted.length;
  const e = new Float32Array(n).fill(start);
  const r = new Float32Array(n);
  const q = new Float32Array(n);
  const applied = (v: Float32Array): void => {
    for (let i = 0; i < n; i++) {
      let sum = count[i] * v[i];
      for (let k = 4 * i; k < 4 * i + 4; k++) if (beside[k] >= 0) sum -= v[beside[k]];
      q[i] = sum;
    }
  };
  applied(e);
  let power = 0;
  for (let i = 0; i < n; i++) {
    r[i] = wanted[i] - q[i];
    power += r[i] * r[i];
  }
  const p = r.slice();
  for (let step = 0; step < mostSteps && Math.sqrt(power / n) > smallEnough / 10; step++) {
    applied(p);
    let along = 0;
    for (let i = 0; i < n; i++) along += p[i] * q[i];
    if (!(along > 0)) break;
    const far = power / along;
    let next = 0;
    for (let i = 0; i < n; i++) {
      e[i] += far * p[i];
      r[i] -= far * q[i];
      next += r[i] * r[i];
    }
    const share = next / power;
    for (let i = 0; i < n; i++) p[i] = r[i] + share * p[i];
    power = next;
  }
  return e;
}
