import { multiply, translation, type Mat3 } from '@lurn/core';

export const filmWidth = 1920;
export const filmHeight = 1080;

/** Where the lens points and how it is held, at one moment. */
export interface CameraPose {
  /** What a layer of depth factor 1 has been passed by, in pixels. */
  x: number;
  y: number;
  /** Radians, positive turns the picture clockwise. */
  roll: number;
  zoom: number;
  /** Radians, positive looks to the right of straight ahead; 0 when left out. */
  yaw?: number;
}

/** How far away a layer of depth factor 1 lies, in its own pixels: it is seen at its size where the zoom is 1. */
const distance = 1500;

export type Camera = (seconds: number) => CameraPose;

interface Wave {
  hertz: number;
  size: number;
  phase: number;
}

const sum = (waves: readonly Wave[], t: number): number =>
  waves.reduce((total, w) => total + w.size * Math.sin(2 * Math.PI * (w.hertz * t + w.phase)), 0);

/** Frequencies that share no period, so that the shake never repeats within a clip. */
const shakeX: Wave[] = [
  { hertz: 0.41, size: 15, phase: 0.1 },
  { hertz: 0.97, size: 7.5, phase: 0.62 },
  { hertz: 2.3, size: 3.2, phase: 0.35 },
  { hertz: 4.7, size: 1.7, phase: 0.8 },
  { hertz: 7.9, size: 0.8, phase: 0.2 },
];
const shakeY: Wave[] = [
  { hertz: 0.37, size: 11, phase: 0.55 },
  { hertz: 1.13, size: 6.5, phase: 0.05 },
  { hertz: 2.71, size: 3.4, phase: 0.9 },
  { hertz: 5.3, size: 1.6, phase: 0.3 },
  { hertz: 8.3, size: 0.7, phase: 0.7 },
];
const shakeRoll: Wave[] = [
  { hertz: 0.33, size: 0.0062, phase: 0.4 },
  { hertz: 1.07, size: 0.003, phase: 0.15 },
  { hertz: 3.1, size: 0.0011, phase: 0.65 },
];
const breath: Wave[] = [
  { hertz: 0.23, size: 0.007, phase: 0.2 },
  { hertz: 0.71, size: 0.0025, phase: 0.8 },
];

/** A hand-held camera: an intended path with the body's sway, the hand's jitter and a breathing lens on top. */
export const handHeld =
  (intended: (seconds: number) => { x: number; y: number }, strength = 1, offset = 0): Camera =>
  (seconds) => {
    const t = seconds + offset;
    const { x, y } = intended(seconds);
    return {
      x: x + strength * sum(shakeX, t),
      y: y + strength * sum(shakeY, t),
      roll: strength * sum(shakeRoll, t),
      zoom: 1.015 + strength * sum(breath, t),
    };
  };

/** Screen pixels of a world point on a layer of depth factor `factor`; the world's origin is the lens axis at rest. */
export function frameFromWorld(pose: CameraPose, factor: number): Mat3 {
  const a = pose.zoom * Math.cos(pose.roll);
  const b = pose.zoom * Math.sin(pose.roll);
  const held: Mat3 = [a, -b, filmWidth / 2, b, a, filmHeight / 2, 0, 0, 1];
  return multiply(
    held,
    multiply(lookedAside(pose.yaw ?? 0), translation(-factor * pose.x, -factor * pose.y)),
  );
}

/** What a camera that turns to the right makes of a picture seen straight ahead. */
function lookedAside(yaw: number): Mat3 {
  const [c, s] = [Math.cos(yaw), Math.sin(yaw)];
  return [c, 0, -s * distance, 0, 1, 0, s / distance, 0, c];
}
