import { similarityMatrix } from '@lurn/core';
import { handHeld } from '../camera.js';
import type { Context } from '../paint.js';
import { farBank, ripples, sky, water } from '../quay/background.js';
import { picture, still, type Layer, type Painter, type Scene } from '../scene.js';
import { crossingSound } from '../sound.js';
import { boat, buoy } from './boat.js';
import { rail } from './rail.js';

const frames = 240;
const frameRate = { numerator: 25, denominator: 1 };
const seconds = frames / 25;

/** The ferry pulls away, and never quite evenly: its cable gives. */
const travel = (t: number): { x: number; y: number } => ({
  x: -230 + (460 * t) / seconds + 26 * Math.sin(0.9 * t) + 9 * Math.sin(2.1 * t + 1),
  y: 7 * Math.sin(0.8 * t + 0.5),
});

/** As things look before the sun is over the hills. */
const early =
  (paint: Painter, haze: number): Painter =>
  (c: Context) => {
    paint(c);
    c.globalCompositeOperation = 'source-atop';
    c.fillStyle = `rgba(104,136,178,${haze})`;
    c.fillRect(0, 0, c.canvas.width, c.canvas.height);
    c.globalCompositeOperation = 'source-over';
  };

/** Something afloat: it bobs and rocks about where its picture's foot is. */
const afloat = (
  name: string,
  factor: number,
  [width, height]: [number, number],
  paint: Painter,
  way: (t: number) => { x: number; y: number },
  phase: number,
): Layer => ({
  name,
  factor,
  pictures: [picture(width, height, paint)],
  worldFromLayer: (t) => {
    const { x, y } = way(t);
    return similarityMatrix(
      {
        x,
        y: y + 3 * Math.sin(1.6 * t + phase),
        rotation: 0.012 * Math.sin(1.1 * t + phase),
        scale: 1,
      },
      { x: width / 2, y: height },
    );
  },
});

const drifting = (
  name: string,
  factor: number,
  speed: number,
  seed: number,
  tint: string,
  top: number,
): Layer => ({
  name,
  factor,
  pictures: [picture(2700, 410, ripples(seed, tint))],
  worldFromLayer: (t) => [
    1,
    0,
    -1350 + speed * (t - seconds / 2),
    0,
    1,
    top + 2 * Math.sin(1.7 * t + seed),
    0,
    0,
    1,
  ],
});

/** From the ferry's deck in the morning: the rail rushes by, buoys slide, a launch crosses, the far bank hardly moves. */
export function crossing(): Scene {
  return {
    name: 'crossing',
    title: 'Crossing',
    frameRate,
    frames,
    layers: [
      still('rail', 2.1, [-1850, 196, 3700, 440], rail),
      afloat('near buoy', 1.25, [150, 260], buoy('#b5533c'), () => ({ x: 250, y: -60 }), 1),
      afloat('launch', 0.8, [620, 300], boat, (t) => ({ x: 620 - 118 * t, y: -138 }), 2.2),
      afloat('far buoy', 0.8, [150, 260], early(buoy('#3f7d58'), 0.12), () => ({ x: -560, y: -190 }), 4),
      drifting('near ripples', 0.7, 12, 9, '#dfe8ee', -20),
      drifting('far ripples', 0.5, -7, 4, '#2f4650', -40),
      still('water', 0.5, [-1180, -44, 2360, 480], early(water, 0.34)),
      still('far bank', 0.32, [-1110, -330, 2220, 340], early(farBank, 0.18)),
      still('sky', 0.05, [-1100, -620, 2200, 700], early(sky, 0.3)),
    ],
    features: [
      { name: 'lifebuoy', layer: 'rail', x: 2150, y: 150 },
      { name: 'near lamp', layer: 'near buoy', x: 75, y: 36 },
      { name: 'name board', layer: 'launch', x: 440, y: 246 },
      { name: 'porthole', layer: 'launch', x: 554, y: 164 },
      { name: 'church clock', layer: 'far bank', x: 1321, y: 160 },
    ],
    camera: handHeld(travel, 0.85, 23),
    gain: (t) => 1 + 0.03 * Math.sin(2 * Math.PI * 0.11 * t + 0.3),
    grain: 2,
    sound: crossingSound,
  };
}
