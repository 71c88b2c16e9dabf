import { similarityMatrix } from '@lurn/core';
import { handHeld } from '../camera.js';
import { picture, still, type Layer, type Scene } from '../scene.js';
import { quaySound } from '../sound.js';
import { farBank, ripples, sky, water } from './background.js';
import { crane } from './crane.js';
import { ferry } from './ferry.js';
import { bollards, cobbles } from './ground.js';

const frames = 300;
const frameRate = { numerator: 30000, denominator: 1001 };
const seconds = (frames * frameRate.denominator) / frameRate.numerator;

/** A slow pan that begins and ends at rest. */
function pan(t: number): { x: number; y: number } {
  const s = Math.min(Math.max(t / seconds, 0), 1);
  return { x: -190 + 380 * s * s * (3 - 2 * s), y: 6 * Math.sin(Math.PI * s) };
}

function drifting(name: string, speed: number, seed: number, tint: string): Layer {
  return {
    name,
    factor: 0.5,
    pictures: [picture(2700, 410, ripples(seed, tint))],
    worldFromLayer: (t) => [
      1,
      0,
      -1350 + speed * (t - seconds / 2),
      0,
      1,
      -34 + 2 * Math.sin(1.7 * t + seed),
      0,
      0,
      1,
    ],
  };
}

const ferryLayer = (): Layer => ({
  name: 'ferry',
  factor: 0.6,
  pictures: [picture(520, 200, ferry)],
  worldFromLayer: (t) =>
    similarityMatrix(
      {
        x: -660 + 26 * t,
        y: -120 + 2.4 * Math.sin(1.3 * t),
        rotation: 0.006 * Math.sin(0.9 * t + 1),
        scale: 1,
      },
      { x: 260, y: 170 },
    ),
});

/** The river quay at the golden hour: a slow pan over bollards, a crane and far houses. */
export function quay(): Scene {
  return {
    name: 'quay',
    title: 'Quay',
    frameRate,
    frames,
    layers: [
      still('bollards', 1.45, [-1360, 205, 2720, 370], bollards),
      still('cobbles', 1.25, [-1350, 316, 2700, 340], cobbles),
      still('crane', 1, [-1240, -560, 2480, 1125], crane),
      ferryLayer(),
      drifting('near ripples', 9, 3, '#ffe2a8'),
      drifting('far ripples', -7, 4, '#2f4650'),
      still('water', 0.5, [-1180, -44, 2360, 480], water),
      still('far bank', 0.35, [-1110, -330, 2220, 340], farBank),
      still('sky', 0.05, [-1100, -620, 2200, 700], sky),
    ],
    features: [
      { name: 'plate', layer: 'crane', x: 1263, y: 592 },
      { name: 'cabin', layer: 'crane', x: 1306, y: 422 },
      { name: 'hook', layer: 'crane', x: 731, y: 488 },
      { name: 'crate', layer: 'crane', x: 1824, y: 676 },
      { name: 'sign', layer: 'crane', x: 390, y: 425 },
      { name: 'lamp', layer: 'crane', x: 2140, y: 300 },
      { name: 'church clock', layer: 'far bank', x: 1321, y: 160 },
      { name: 'bollard', layer: 'bollards', x: 1010, y: 197 },
    ],
    camera: handHeld(pan),
    gain: (t) => 1 + 0.035 * Math.sin(2 * Math.PI * 0.13 * t + 0.8),
    grain: 2,
    sound: quaySound,
  };
}
