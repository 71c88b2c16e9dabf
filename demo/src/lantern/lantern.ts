import { multiply, similarityMatrix, translation, type Mat3 } from '@lurn/core';
import { handHeld } from '../camera.js';
import { picture, still, type Layer, type Scene } from '../scene.js';
import { lanternSound } from '../sound.js';
import { glow, glowSize, lamp } from './lamp.js';
import { reeds, sky, trees, village } from './surroundings.js';
import { hand, head, walker } from './walker.js';
import { wall } from './wall.js';

const frames = 240;
const frameRate = { numerator: 25, denominator: 1 };
const seconds = frames / 25;
const stepsASecond = 1.7;
/** Pictures in one cycle of two steps. */
const poses = 16;

/** How far along the walk, 0 … 1, easing in and out a little. */
const along = (t: number): number => Math.min(Math.max(t / seconds, -0.05), 1.05);

/** Growing as it comes nearer. */
const size = (t: number): number => 1 + 0.35 * along(t);

const ground = 250;

function walkerMatrix(t: number): Mat3 {
  const s = along(t);
  const step = Math.abs(Math.sin(Math.PI * stepsASecond * t));
  const scale = size(t);
  return multiply(
    similarityMatrix(
      {
        x: -460 + 860 * s,
        y: ground - 5 * step + 20 * s,
        rotation: 0.012 * Math.sin(Math.PI * stepsASecond * t),
        scale,
      },
      { x: 0, y: 0 },
    ),
    translation(-170, -560),
  );
}

function lanternMatrix(t: number): Mat3 {
  const swing = 0.21 * Math.sin(2 * Math.PI * 0.31 * t + 0.4) + 0.035 * Math.sin(2 * Math.PI * 0.85 * t);
  return multiply(
    walkerMatrix(t),
    multiply(
      translation(hand.x, hand.y),
      multiply(
        similarityMatrix({ x: 0, y: 0, rotation: swing, scale: 1 }, { x: 0, y: 0 }),
        translation(-80, -14),
      ),
    ),
  );
}

/** Someone carries a lantern along a wall by night, turning and growing a little, while the camera shakes. */
export function lantern(): Scene {
  const walking: Layer = {
    name: 'walker',
    factor: 1.1,
    pictures: Array.from({ length: poses }, (_, i) => picture(350, 600, walker(i / poses))),
    worldFromLayer: walkerMatrix,
    pictureAt: (t) => ((Math.floor((t * stepsASecond * poses) / 2) % poses) + poses) % poses,
  };
  return {
    name: 'lantern',
    title: 'Lantern',
    frameRate,
    frames,
    layers: [
      still('reeds', 1.6, [-1420, 240, 2840, 400], reeds),
      {
        name: 'glow',
        factor: 1.1,
        pictures: [picture(glowSize, glowSize, glow)],
        glows: true,
        worldFromLayer: (t) => multiply(lanternMatrix(t), translation(80 - glowSize / 2, 130 - glowSize / 2)),
      },
      { name: 'lantern', factor: 1.1, pictures: [picture(160, 206, lamp)], worldFromLayer: lanternMatrix },
      walking,
      still('wall', 1, [-1220, -520, 2440, 1140], wall),
      still('trees', 0.55, [-1140, -540, 2280, 650], trees),
      still('village', 0.3, [-1090, -330, 2180, 426], village),
      still('sky', 0.04, [-1080, -600, 2160, 760], sky),
    ],
    outlines: [{ name: 'head', layer: 'walker', points: head }],
    features: [
      { name: 'lantern band', layer: 'lantern', x: 80, y: 71 },
      { name: 'lantern foot', layer: 'lantern', x: 80, y: 184 },
      { name: 'board', layer: 'wall', x: 1694, y: 352 },
      { name: 'ring', layer: 'wall', x: 1240, y: 392 },
      { name: 'milestone', layer: 'wall', x: 800, y: 512 },
      { name: 'gate', layer: 'wall', x: 438, y: 440 },
    ],
    camera: handHeld((t) => ({ x: 10 * Math.sin(0.5 * t), y: 0 }), 1.15, 37),
    gain: (t) => 1 + 0.03 * Math.sin(2 * Math.PI * 0.21 * t),
    grain: 2,
    sound: lanternSound(stepsASecond),
  };
}
