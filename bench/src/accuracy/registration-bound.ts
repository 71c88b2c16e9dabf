import { expose, project, type Take } from './camera.js';
import type { Place } from './conditions.js';

const box = 41;

/**
 * The Cramér-Rao bound of a shift between two pictures with noise of the take's deviation (Robinson & Milanfar
 * 2004), for each place, root mean square pixels: both pictures are noisy, hence the 2.
 */
export function registrationBounds(take: Take, places: readonly Place[]): number[] {
  const { data, width } = expose({ ...take, noise: 0 }, 0);
  const variance = 2 * (take.noise ?? 0) ** 2;
  return places.map((place) => {
    const { x, y } = project(take, 0, place);
    const [left, top] = [Math.floor(x) - (box >> 1), Math.floor(y) - (box >> 1)];
    let [xx, xy, yy] = [0, 0, 0];
    for (let j = top; j < top + box; j++) {
      for (let i = left; i < left + box; i++) {
        const at = j * width + i;
        const gx = (data[at + 1] - data[at - 1]) / 2;
        const gy = (data[at + width] - data[at - width]) / 2;
        [xx, xy, yy] = [xx + gx * gx, xy + gx * gy, yy + gy * gy];
      }
    }
    return Math.sqrt((variance * (xx + yy)) / (xx * yy - xy * xy));
  });
}
