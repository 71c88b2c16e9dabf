import type { WarpModel } from '@lurn/core';
import { randomFrom } from '@lurn/demo';
import { filmHeight, filmWidth, project, type Cover, type Pose, type Take } from './camera.js';
import { fineness, makeWorld, type World } from './world.js';

/** A place to follow, in clip pixels from the world's centre. */
export type Place = { x: number; y: number };

export interface Condition {
  name: string;
  strength: string;
  /** What the root mean square error should not exceed, pixels; none where only honesty counts. */
  goal?: number;
  take: Take;
  places: Place[];
  /** What the box is let do; similarity when left out. */
  model?: WarpModel;
  /**
   * Where nothing but noise sets the limit, told against the Cramér-Rao bound: more takes at other places, as the
   * noise in a template moves all samples of a place alike.
   */
  further?: Pick<Condition, 'take' | 'places'>[];
  /** Quality of H.264 the take goes through. */
  crf?: number;
  frames: number;
}

const worldWidth = 1500;
const worldHeight = 1180;
const box = 41;

/** A hand's tremble of so many pixels about a slow drift. */
const handHeld =
  (size: number, seed: number) =>
  (k: number): Pose => ({
    x: size * (Math.sin(k * 0.13 + seed) + 0.45 * Math.sin(k * 0.71 + 2 * seed) + 0.2 * Math.sin(k * 1.9)),
    y: size * (Math.cos(k * 0.11 + seed) + 0.4 * Math.sin(k * 0.83 + seed) + 0.2 * Math.cos(k * 2.1 + seed)),
    angle: 0,
    size: 1,
  });

/** Places spread over the middle of the picture, where there is texture in both directions. */
function choosePlaces(
  world: World,
  count: number,
  seed: number,
  reach = { x: 170, y: 115 },
  contrast = 1,
): Place[] {
  const even = randomFrom(seed);
  const places: Place[] = [];
  for (let tries = 0; places.length < count && tries < 4000; tries++) {
    const place = { x: (2 * even() - 1) * reach.x, y: (2 * even() - 1) * reach.y };
    if (places.some((p) => Math.hypot(p.x - place.x, p.y - place.y) < box * 1.2)) continue;
    if (structure(world, place) > 5 * contrast) places.push(place);
  }
  return places;
}

/** Places farther than a distance from all before them. */
const apart = (places: readonly Place[], distance: number): Place[] =>
  places.filter((p, n) => places.slice(0, n).every((q) => Math.hypot(p.x - q.x, p.y - q.y) > distance));

/** The root mean square gradient along the weakest direction of a box, grey levels a clip pixel. */
function structure({ width, height, data }: World, { x, y }: Place): number {
  const [cx, cy] = [Math.round(width / 2 + fineness * x), Math.round(height / 2 + fineness * y)];
  const half = (box * fineness) >> 1;
  let [xx, xy, yy, n] = [0, 0, 0, 0];
  for (let v = -half; v <= half; v += 2)
    for (let u = -half; u <= half; u += 2, n++) {
      const at = (cy + v) * width + cx + u;
      const gx = (data[at + 1] - data[at - 1]) * (fineness / 2);
      const gy = (data[at + width] - data[at - width]) * (fineness / 2);
      [xx, xy, yy] = [xx + gx * gx, xy + gx * gy, yy + gy * gy];
    }
  return Math.sqrt(((xx + yy) / 2 - Math.hypot((xx - yy) / 2, xy)) / n);
}

/** Lays a copy of each place's surroundings beside it; 1 would be an exact twin. */
function addTwins(world: World, places: readonly Place[], likeness: number, away: number): void {
  const half = Math.round(box * 0.75 * fineness);
  for (const { x, y } of places) {
    const cx = Math.round(world.width / 2 + fineness * x);
    const cy = Math.round(world.height / 2 + fineness * y);
    const shift = Math.round(away * fineness);
    for (let v = -half; v <= half; v++)
      for (let u = -half; u <= half; u++) {
        const near = Math.min(1, (half - Math.max(Math.abs(u), Math.abs(v))) / 8);
        const from = (cy + v) * world.width + cx + u;
        const to = from + shift;
        const share = near * likeness;
        world.data[to] = share * world.data[from] + (1 - share) * world.data[to];
      }
  }
}

/**
 * Puts up a disc, a ring or a crossing at each place, as they are stuck on to be followed, on a sheet that reaches `half` clip
 * pixels each way; edges are two pixels wide.
 */
function addMarks(world: World, places: readonly Place[], half: number): void {
  const [dark, light] = [85, 205];
  const within = (distance: number): number => Math.min(Math.max(0.5 - distance / 2, 0), 1);
  const marks = [
    (x: number, y: number) => within(Math.hypot(x, y) - 6),
    (x: number, y: number) => within(Math.abs(Math.hypot(x, y) - 9) - 2),
    (x: number, y: number) => within(-x) * within(-y) + within(x) * within(y),
  ];
  const reach = half * fineness;
  places.forEach((place, n) => {
    const [cx, cy] = [world.width / 2 + fineness * place.x, world.height / 2 + fineness * place.y];
    const [left, top] = [Math.round(cx), Math.round(cy)];
    for (let y = top - reach; y < top + reach; y++)
      for (let x = left - reach; x < left + reach; x++) {
        const share = marks[n % marks.length]((x + 0.5 - cx) / fineness, (y + 0.5 - cy) / fineness);
        world.data[y * world.width + x] = dark + (light - dark) * share;
      }
  });
}

/** A bar that hides a share of each place's box on the frames given. */
function coverBoxes(
  take: Take,
  places: readonly Place[],
  share: number,
  from: number,
  to: number,
): (k: number) => Cover[] {
  return (k) => {
    if (k < from || k >= to) return [];
    return places.map((place) => {
      const { x, y } = project(take, k, place);
      const side = box * 1.3;
      return {
        left: x - box / 2 - 4 + (k - from) * 0.2,
        top: y - side / 2,
        width: box * share + 4,
        height: side,
      };
    });
  };
}

const levels = ['weak', 'middle', 'strong'] as const;

/** Every condition at three strengths. `length` frames each; drift is measured over 600. */
export function conditions(length = 90): Condition[] {
  const list: Condition[] = [];
  const worlds = new Map<string, World>();
  const world = (seed: number, contrast = 1): World => {
    const name = `${seed} ${contrast}`;
    const known = worlds.get(name) ?? makeWorld(worldWidth, worldHeight, seed, contrast);
    worlds.set(name, known);
    return known;
  };
  const add = (
    name: string,
    strength: string,
    take: Omit<Take, 'frames' | 'seed'> & { frames?: number },
    more: Partial<Condition> = {},
  ): Condition => {
    const seed = 11 + list.length;
    const frames = take.frames ?? length;
    const condition: Condition = {
      name,
      strength,
      frames,
      take: { ...take, frames, seed },
      places: choosePlaces(take.world, 8, seed),
      ...more,
    };
    list.push(condition);
    return condition;
  };
  const still = (k: number): Pose => handHeld(6, 1)(k);

  levels.forEach((_, i) =>
    add(
      'plain',
      `shake ${[3, 8, 20][i]} px`,
      { world: world(1), pose: handHeld([3, 8, 20][i], i) },
      { goal: 0.05 },
    ),
  );
  levels.forEach((_, i) => {
    const most = [8, 16, 25][i];
    const pose = (k: number): Pose => ({
      ...handHeld(4, 2)(k),
      angle: ((most * Math.PI) / 180) * Math.sin((k * 2 * Math.PI) / length),
    });
    add('rotation', `±${most}°`, { world: world(2), pose }, { goal: 0.1 });
  });
  levels.forEach((_, i) => {
    const [least, most] = [
      [0.85, 1.2],
      [0.7, 1.4],
      [0.6, 1.6],
    ][i];
    const pose = (k: number): Pose => {
      const wave = Math.sin((k * 2 * Math.PI) / length);
      return { ...handHeld(4, 3)(k), size: wave > 0 ? most ** wave : least ** -wave };
    };
    add(
      'scale',
      `${least}–${most}`,
      { world: world(3), pose },
      { goal: 0.1, places: choosePlaces(world(3), 6, 77, { x: 95, y: 65 }) },
    );
  });
  levels.forEach((_, i) => {
    const size = [0.1, 0.2, 0.3][i];
    const gain = (k: number): number =>
      0.75 * (1 + size * (0.7 * Math.sin(k / 5) + 0.3 * (k % 2 === 0 ? 1 : -1)));
    add('brightness', `±${size * 100} %, flicker`, { world: world(4), pose: still, gain }, { goal: 0.05 });
  });
  // The bound is a shift's. A similarity gives some of what the box knows for turn and size.
  for (const model of ['translation', 'similarity'] as const)
    levels.forEach((_, i) => {
      const noise = [2, 5, 10][i];
      const [first, ...further] = Array.from({ length: 6 }, (_, k) => {
        const seed = 100 * (k + 1) + i;
        const take = { world: world(5), pose: still, noise, frames: 60, seed };
        return { take, places: choosePlaces(take.world, 8, seed) };
      });
      add(`noise, ${model}`, `σ ${noise}`, first.take, { ...first, model, further });
    });
  levels.forEach((_, i) =>
    add('motion blur', `${[2, 5, 10][i]} px`, {
      world: world(6),
      pose: still,
      smear: [2, 5, 10][i],
      noise: 1,
    }),
  );
  levels.forEach((_, i) =>
    add(
      'compression',
      `CRF ${[18, 28, 35][i]}`,
      { world: world(7), pose: still, noise: 1.5 },
      { crf: [18, 28, 35][i] },
    ),
  );
  levels.forEach((_, i) => {
    const share = [0.2, 0.35, 0.5][i];
    const condition = add('partial cover', `${share * 100} %`, { world: world(8), pose: still, noise: 1.5 });
    condition.take.covers = coverBoxes(condition.take, condition.places, share, 30, 60);
  });
  levels.forEach((_, i) => {
    const count = [4, 8, 12][i];
    const condition = add('full cover', `${count} frames`, { world: world(9), pose: still, noise: 1.5 }, {});
    condition.take.covers = coverBoxes(condition.take, condition.places, 1.25, 30, 30 + count);
  });
  levels.forEach((_, i) => {
    const likeness = [0.8, 0.9, 0.97][i];
    const ground = makeWorld(worldWidth, worldHeight, 10);
    const places = apart(choosePlaces(ground, 40, 5, { x: 150, y: 115 }), 130).slice(0, 5);
    addTwins(ground, places, likeness, 52);
    const condition = add(
      'near twins',
      `likeness ${likeness}`,
      { world: ground, pose: still, noise: 1.5 },
      { places },
    );
    condition.take.covers = coverBoxes(condition.take, places, 1.05, 30, 38);
  });
  levels.forEach((_, i) => {
    const contrast = [12, 6, 3][i] / 38;
    const ground = world(12, contrast);
    const places = choosePlaces(ground, 8, 41, undefined, contrast);
    add('low contrast', `σ ${[12, 6, 3][i]}`, { world: ground, pose: still, noise: 1 }, { places });
  });
  levels.forEach((_, i) => {
    const beside = [0, 4, 4][i];
    const ground = makeWorld(worldWidth, worldHeight, 14);
    const marks = apart(choosePlaces(ground, 6, 21, { x: 150, y: 100 }), 60);
    // The box of 41 pixels sees the sheet's corners only where it is small.
    addMarks(ground, marks, [30, 30, 24][i]);
    const places = marks.map(({ x, y }, n) => ({
      x: x + beside * Math.cos(n),
      y: y + beside * Math.sin(n),
    }));
    const pose = (k: number): Pose => ({ ...still(k), angle: 0.05 * Math.sin(k / 20) });
    add(
      'marks',
      `${beside} px beside${i === 2 ? '*' : ''}`,
      { world: ground, pose, noise: 2 },
      { places, goal: 0.1 },
    );
  });
  add(
    'drift',
    '600 frames',
    {
      world: world(13),
      pose: (k) => ({
        ...handHeld(8, 5)(k),
        angle: 0.15 * Math.sin(k / 60),
        size: 1 + 0.1 * Math.sin(k / 45),
      }),
      noise: 2,
      frames: 600,
    },
    { goal: 0.1 },
  );
  levels.forEach((_, i) => {
    const shake = [0, 3, 8][i];
    // What tells most of a plain wall's picture is whoever goes by before it.
    const wall = makeWorld(worldWidth, worldHeight, 15, 0.03);
    const marks = apart(choosePlaces(wall, 9, 31, { x: 150, y: 100 }, 0), 70);
    addMarks(wall, marks, 24);
    const covers = (k: number): Cover[] => [{ left: 12 * (k - 20) - 130, top: 60, width: 130, height: 300 }];
    add(
      'crossing',
      `shake ${shake} px`,
      { world: wall, pose: handHeld(shake, 4), noise: 1.5, covers },
      { places: marks },
    );
  });
  return list;
}

export const inFrame = ({ x, y }: { x: number; y: number }): boolean =>
  x > 0 && y > 0 && x < filmWidth && y < filmHeight;
