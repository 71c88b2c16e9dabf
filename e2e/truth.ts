import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { apply, invert, type Mat3, type Point } from '@lurn/core';

export const clipPath = (name: string): string =>
  fileURLToPath(new URL(`../demo/clips/${name}.mp4`, import.meta.url));

interface TruthFile {
  layers: { name: string; frameFromLayer: Mat3[] }[];
  features: { name: string; layer: string; positions: { x: number; y: number; visible: boolean }[] }[];
}

/** What the demo's generator says really happened in a clip. */
export class Truth {
  private readonly file: TruthFile;

  constructor(name: string) {
    const url = new URL(`../demo/clips/${name}.truth.json`, import.meta.url);
    this.file = JSON.parse(readFileSync(url, 'utf8')) as TruthFile;
  }

  at(feature: string, frame: number): Point {
    const { x, y } = this.feature(feature).positions[frame];
    return { x, y };
  }

  visible(feature: string, frame: number): boolean {
    return this.feature(feature).positions[frame].visible;
  }

  /** Where a point that was placed by hand near a feature, at `keyFrame`, stands at `frame`. */
  carried(feature: string, placed: Point, keyFrame: number, frame: number): Point {
    const layer = this.file.layers.find((l) => l.name === this.feature(feature).layer);
    if (!layer) throw new Error(`No layer for ${feature}.`);
    const p = apply(invert(layer.frameFromLayer[keyFrame]), placed.x, placed.y);
    return apply(layer.frameFromLayer[frame], p.x, p.y);
  }

  private feature(name: string) {
    const found = this.file.features.find((f) => f.name === name);
    if (!found) throw new Error(`No feature "${name}".`);
    return found;
  }
}

export const rms = (errors: number[]): number =>
  Math.sqrt(errors.reduce((sum, e) => sum + e * e, 0) / errors.length);
