import { formatFrameRate, type FrameRate } from '../geometry/frame-rate.js';

/** What the files we write say of the clip they belong to. */
export interface ClipFacts {
  name: string;
  width: number;
  height: number;
  frameRate: FrameRate;
  frames: number;
  /** A pixel's width over its height, like "16:11"; square when left out. */
  pixelAspect?: string;
}

export const clipHeader = (clip: ClipFacts) => ({
  name: clip.name,
  width: clip.width,
  height: clip.height,
  frameRate: formatFrameRate(clip.frameRate),
  frames: clip.frames,
});

/** Rounds for the page: a ten-thousandth of a pixel is far below what can be measured. */
export const rounded = (value: number, digits = 4): number => Number(value.toFixed(digits)) || 0;
