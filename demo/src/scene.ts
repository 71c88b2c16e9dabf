import { createCanvas, type Canvas, type SKRSContext2D } from '@napi-rs/canvas';
import { translation, type FrameRate, type Mat3 } from '@lurn/core';
import type { Camera } from './camera.js';

export type Painter = (c: SKRSContext2D) => void;

/** A flat piece of the world at one depth: painted once, moved by the camera and by its own motion. */
export interface Layer {
  name: string;
  /** How fast it passes when the camera moves: 1 for the plane of interest, more for nearer things. */
  factor: number;
  /** One picture, or several that take turns. */
  pictures: Canvas[];
  /** Adds light instead of covering. */
  glows?: boolean;
  worldFromLayer: (seconds: number) => Mat3;
  pictureAt?: (seconds: number) => number;
}

/** A place on a layer whose path through the clip is told in the truth file, in the layer's own pixels. */
export interface Feature {
  name: string;
  layer: string;
  x: number;
  y: number;
}

export interface Scene {
  name: string;
  title: string;
  frameRate: FrameRate;
  frames: number;
  /** Nearest first. */
  layers: Layer[];
  features: Feature[];
  /** Shapes on layers whose true outline is told in the truth file, in the layer's own pixels. */
  outlines?: { name: string; layer: string; points: [x: number, y: number][] }[];
  camera: Camera;
  /** Exposure at a moment; 1 is as painted. */
  gain: (seconds: number) => number;
  /** Standard deviation of the film's grain, in grey levels. */
  grain: number;
  /** Left and right sound pressure, −1 … 1. */
  sound: () => (seconds: number) => [number, number];
}

/** A layer that only the camera moves; `left` and `top` place its picture in the world. */
export function still(
  name: string,
  factor: number,
  [left, top, width, height]: [number, number, number, number],
  paint: Painter,
): Layer {
  const place = translation(left, top);
  return { name, factor, pictures: [picture(width, height, paint)], worldFromLayer: () => place };
}

export function picture(width: number, height: number, paint: Painter): Canvas {
  const canvas = createCanvas(width, height);
  const context = canvas.getContext('2d');
  paint(context);
  return canvas;
}
