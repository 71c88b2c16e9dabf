import { readFileSync } from 'node:fs';
import type { Canvas } from '@napi-rs/canvas';
import { invert, multiply, type Mat3 } from '@lurn/core';
import { filmHeight, filmWidth, frameFromWorld } from './camera.js';
import type { Layer, Scene } from './scene.js';

/** Moments at which the open shutter is looked through, for motion blur. */
const moments = 2;
/** Share of a frame's time that the shutter is open (180°). */
const shutter = 0.5;

const recordBytes = 16 + moments * 72;

interface Bitmap {
  at: number;
  width: number;
  height: number;
  spans: number;
}

/** Middle of the exposure of a frame, in seconds. */
export const frameMoment = (scene: Scene, frame: number): number =>
  (frame * scene.frameRate.denominator) / scene.frameRate.numerator;

export const frameFromLayer = (scene: Scene, layer: Layer, seconds: number): Mat3 =>
  multiply(frameFromWorld(scene.camera(seconds), layer.factor), layer.worldFromLayer(seconds));

interface FilmKernel {
  exposePicture(...args: number[]): void;
  halveChroma(source: number, target: number, width: number, height: number): void;
}

/** The scene's layers, seen through the lens: makes one YUV 4:2:0 picture a frame. */
export class Lens {
  private readonly memory: WebAssembly.Memory;
  private readonly kernel: FilmKernel;
  private readonly bitmaps = new Map<Canvas, Bitmap>();
  private readonly records: number;
  private readonly scratch: number;
  private readonly target: number;

  constructor(private readonly scene: Scene) {
    const canvases = scene.layers.flatMap((layer) => layer.pictures);
    const needed = canvases.reduce((sum, c) => sum + c.width * c.height * 4 + c.height * 8 + 64, 0);
    const pixels = filmWidth * filmHeight;
    this.memory = new WebAssembly.Memory({
      initial: Math.ceil((needed + filmWidth * 32 + pixels * 4) / 65536) + 4,
    });
    const module = new WebAssembly.Module(readFileSync(new URL('film.wasm', import.meta.url)));
    const abort = (): never => {
      throw new Error('The film kernel stopped.');
    };
    this.kernel = new WebAssembly.Instance(module, { env: { memory: this.memory, abort } })
      .exports as unknown as FilmKernel;
    let free = 65536;
    const take = (bytes: number): number => {
      const at = free;
      free = (free + bytes + 15) & ~15;
      return at;
    };
    for (const layer of scene.layers) {
      for (const canvas of layer.pictures) {
        const at = take(canvas.width * canvas.height * 4 + 16);
        const spans = take(canvas.height * 8);
        this.bitmaps.set(canvas, { at, spans, width: canvas.width, height: canvas.height });
        this.develop(canvas, at, spans, layer.glows ?? false);
      }
    }
    this.records = take(scene.layers.length * recordBytes);
    this.scratch = take(filmWidth * 32);
    this.target = take(pixels * 4);
  }

  /** Premultiplies a canvas into the kernel's memory and notes where each row has anything in it. */
  private develop(canvas: Canvas, at: number, spans: number, glows: boolean): void {
    const { width, height } = canvas;
    const { data } = canvas.getContext('2d').getImageData(0, 0, width, height);
    const out = new Uint8Array(this.memory.buffer, at, width * height * 4);
    const rows = new Int32Array(this.memory.buffer, spans, height * 2);
    for (let y = 0; y < height; y++) {
      let left = 0x7fffffff;
      let right = -1;
      for (let x = 0, i = y * width * 4; x < width; x++, i += 4) {
        const alpha = data[i + 3];
        if (alpha === 0) continue;
        left = Math.min(left, x);
        right = x;
        for (let k = 0; k < 3; k++) out[i + k] = (data[i + k] * alpha + 127) / 255;
        out[i + 3] = glows ? 0 : alpha;
      }
      rows[2 * y] = left;
      rows[2 * y + 1] = right;
    }
  }

  /** Exposes a frame; the two parts together are the picture, and are overwritten by the next. */
  expose(frame: number): [luma: Uint8Array, chroma: Uint8Array] {
    const { scene, kernel, memory } = this;
    const view = new DataView(memory.buffer);
    const middle = frameMoment(scene, frame);
    const second = scene.frameRate.denominator / scene.frameRate.numerator;
    scene.layers.forEach((layer, i) => {
      const record = this.records + i * recordBytes;
      const bitmap = this.bitmaps.get(layer.pictures[layer.pictureAt?.(middle) ?? 0]) as Bitmap;
      [bitmap.at, bitmap.width, bitmap.height, bitmap.spans].forEach((v, k) =>
        view.setInt32(record + 4 * k, v, true),
      );
      for (let m = 0; m < moments; m++) {
        const t = middle + ((m + 0.5) / moments - 0.5) * shutter * second;
        const layerFromFrame = invert(frameFromLayer(scene, layer, t));
        layerFromFrame.forEach((value, k) =>
          view.setFloat64(record + 16 + 72 * m + 8 * k, value / layerFromFrame[8], true),
        );
      }
    });
    const pixels = filmWidth * filmHeight;
    const u = this.target + pixels;
    const halved = this.target + 3 * pixels;
    kernel.exposePicture(
      ...[
        this.records,
        scene.layers.length,
        moments,
        this.scratch,
        this.scratch + filmWidth * 16,
        this.target,
      ],
      ...[filmWidth, filmHeight, scene.gain(middle), scene.grain, frame + 1],
    );
    kernel.halveChroma(u, halved, filmWidth, filmHeight);
    kernel.halveChroma(u + pixels, halved + pixels / 4, filmWidth, filmHeight);
    return [
      new Uint8Array(memory.buffer, this.target, pixels),
      new Uint8Array(memory.buffer, halved, pixels / 2),
    ];
  }
}
