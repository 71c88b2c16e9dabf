import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply } from './mat3.js';
import { changeOf, increment, parameterCount, warpModels, steepestDescent } from './warp-model.js';

const small = fc.double({ min: -0.02, max: 0.02, noNaN: true });
const anyShape = fc.constantFrom(...warpModels);
const aspect = 16 / 11;
const reach = 28;

test('the change that a small increment makes is the one it stands for', () => {
  fc.assert(
    fc.property(anyShape, fc.array(small, { minLength: 8, maxLength: 8 }), (model, p) => {
      // A perspective's last two bend lines, which no change of slopes in the middle shows.
      const own = Array.from({ length: parameterCount[model] }, (_, k) => (k < 6 ? p[k] : 0));
      const change = changeOf(model, increment(model, own, reach, aspect), reach, aspect);
      own.slice(2).forEach((value, k) => expect(change[k]).toBeCloseTo(value, 5));
    }),
  );
});

test('a pixel answers to each parameter as a small increment moves it along its slopes', () => {
  fc.assert(
    fc.property(
      anyShape,
      fc.record({ u: fc.integer({ min: -20, max: 20 }), v: fc.integer({ min: -20, max: 20 }) }),
      fc.record({ gx: fc.integer({ min: -30, max: 30 }), gy: fc.integer({ min: -30, max: 30 }) }),
      (model, { u, v }, { gx, gy }) => {
        const answer = new Float64Array(parameterCount[model]);
        steepestDescent(model, gx, gy, u, v, reach, aspect, answer);
        for (let k = 0; k < parameterCount[model]; k++) {
          const p = Array.from({ length: parameterCount[model] }, (_, i) => (i === k ? 1e-4 : 0));
          const { x, y } = apply(increment(model, p, reach, aspect), u, v);
          expect((gx * (x - u) + gy * (y - v)) / 1e-4).toBeCloseTo(answer[k], 2);
        }
      },
    ),
  );
});
