import { multiply, similarityMatrix, translation } from '@lurn/core';
import { handHeld, type Camera } from '../camera.js';
import { walker } from '../lantern/walker.js';
import { picture, still, type Layer, type Scene } from '../scene.js';
import { windowSound } from '../sound.js';
import { front, frontSize, glass, sky } from './front.js';
import { margin, reflection, reflectionSize, screen, scratched } from './screen.js';

const frames = 240;
const frameRate = { numerator: 25, denominator: 1 };
const seconds = frames / 25;

/** The middle of the glass in the world, which the camera turns towards while it is carried past. */
const left = -2310;
const top = -890;
const middle = { x: left + glass.left + glass.width / 2, y: top + glass.top + glass.height / 2 };
const distance = 1500;

/** From the left of the screen to its right; the head turns after it, not quite as far. */
const past = (t: number): number => -1250 + 2100 * (0.5 - 0.5 * Math.cos((Math.PI * t) / seconds));
const hand = handHeld(() => ({ x: 0, y: 0 }), 0.7, 51);
const camera: Camera = (t) => {
  const held = hand(t);
  const x = past(t);
  return {
    ...held,
    x: x + held.x,
    y: 0.4 * middle.y + held.y,
    yaw: 0.85 * Math.atan2(middle.x - x, distance),
  };
};

const poses = 16;
const stepsASecond = 1.7;

/** Someone who comes the other way, nearer than the wall. */
function passerBy(): Layer {
  return {
    name: 'passer-by',
    factor: 1.35,
    pictures: Array.from({ length: poses }, (_, i) => picture(350, 600, walker(i / poses))),
    worldFromLayer: (t) =>
      multiply(
        similarityMatrix(
          {
            x: 1150 - 400 * t,
            y: 560 - 6 * Math.abs(Math.sin(Math.PI * stepsASecond * t)),
            rotation: 0.01 * Math.sin(Math.PI * stepsASecond * t),
            scale: 1.85,
          },
          { x: 0, y: 0 },
        ),
        multiply([-1, 0, 0, 0, 1, 0, 0, 0, 1], translation(-170, -560)),
      ),
    pictureAt: (t) => ((Math.floor((t * stepsASecond * poses) / 2) % poses) + poses) % poses,
  };
}

/** The ferry's ticket house, filmed walking past: a screen behind glass that mirrors, and someone who passes before it. */
export function ticketWindow(): Scene {
  const { width, height } = glass;
  const corners: [string, number, number][] = [
    ['upper left', margin, margin],
    ['upper right', margin + width, margin],
    ['lower right', margin + width, margin + height],
    ['lower left', margin, margin + height],
  ];
  return {
    name: 'window',
    title: 'Ticket window',
    frameRate,
    frames,
    layers: [
      passerBy(),
      still('front', 1, [left, top, frontSize.width, frontSize.height], front),
      {
        name: 'reflection',
        factor: 1,
        pictures: [picture(reflectionSize.width, reflectionSize.height, reflection)],
        glows: true,
        // What is mirrored stays behind as the camera goes past.
        worldFromLayer: (t) =>
          translation(middle.x - reflectionSize.width / 2 + 0.45 * past(t), middle.y - 620),
      },
      still(
        'screen',
        1,
        [left + glass.left - margin, top + glass.top - margin, width + 2 * margin, height + 2 * margin],
        screen,
      ),
      still('sky', 0.2, [-5200, -1500, 10400, 2000], sky),
    ],
    outlines: [{ name: 'scratch', layer: 'screen', points: scratched }],
    features: [
      ...corners.map(([name, x, y]) => ({ name, layer: 'screen', x, y })),
      { name: 'sign', layer: 'front', x: 1540, y: 455 },
      { name: 'timetable', layer: 'front', x: 2980, y: 680 },
    ],
    camera,
    gain: (t) => 1 + 0.14 * Math.sin(2 * Math.PI * 0.16 * t) + 0.05 * Math.sin(2 * Math.PI * 0.7 * t),
    grain: 2.5,
    sound: windowSound,
  };
}
