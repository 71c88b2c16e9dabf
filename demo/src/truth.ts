import { apply, formatFrameRate, invert, type Mat3 } from '@lurn/core';
import { filmHeight, filmWidth, frameFromWorld } from './camera.js';
import { frameFromLayer, frameMoment } from './lens.js';
import type { Layer, Scene } from './scene.js';

export interface TruthFeature {
  name: string;
  layer: string;
  /** Per frame, in clip pixels with the corner as origin, at the middle of the exposure. */
  positions: { x: number; y: number; visible: boolean }[];
}

/** What the camera and every named feature really did. */
export interface Truth {
  format: 'lurn-truth';
  version: 1;
  clip: { name: string; width: number; height: number; frameRate: string; frames: number };
  /** Per layer and frame: layer pixel → clip pixel. */
  layers: { name: string; factor: number; frameFromLayer: Mat3[] }[];
  /** Per frame: the plane of depth factor 1 → clip pixel. */
  camera: Mat3[];
  features: TruthFeature[];
  /** True outlines of things, in pixels of their layer. */
  outlines: { name: string; layer: string; points: [x: number, y: number][] }[];
}

const digits = (value: number): number => Number(value.toFixed(6));

export function tellTruth(scene: Scene): Truth {
  const times = Array.from({ length: scene.frames }, (_, frame) => frameMoment(scene, frame));
  const rounded = (m: Mat3): Mat3 => m.map((v) => Number(v.toPrecision(12))) as unknown as Mat3;
  const isOpaque = scene.layers.map(coverOf);
  return {
    format: 'lurn-truth',
    version: 1,
    clip: {
      name: `${scene.name}.mp4`,
      width: filmWidth,
      height: filmHeight,
      frameRate: formatFrameRate(scene.frameRate),
      frames: scene.frames,
    },
    layers: scene.layers.map((layer) => ({
      name: layer.name,
      factor: layer.factor,
      frameFromLayer: times.map((t) => rounded(frameFromLayer(scene, layer, t))),
    })),
    camera: times.map((t) => rounded(frameFromWorld(scene.camera(t), 1))),
    outlines: scene.outlines ?? [],
    features: scene.features.map(({ name, layer, x, y }) => {
      const depth = scene.layers.findIndex((l) => l.name === layer);
      return {
        name,
        layer,
        positions: times.map((t) => {
          const p = apply(frameFromLayer(scene, scene.layers[depth], t), x, y);
          const inside = p.x > 0 && p.y > 0 && p.x < filmWidth && p.y < filmHeight;
          const covered = scene.layers.slice(0, depth).some((near, i) => {
            const q = apply(invert(frameFromLayer(scene, near, t)), p.x, p.y);
            return isOpaque[i](q.x, q.y, near.pictureAt?.(t) ?? 0);
          });
          return { x: digits(p.x), y: digits(p.y), visible: inside && !covered };
        }),
      };
    }),
  };
}

/** Whether a layer hides what is behind one of its pixels. */
function coverOf(layer: Layer): (x: number, y: number, picture: number) => boolean {
  if (layer.glows) return () => false;
  const pixels = layer.pictures.map((c) => c.getContext('2d').getImageData(0, 0, c.width, c.height));
  return (x, y, picture) => {
    const { width, height, data } = pixels[picture];
    const i = Math.floor(x);
    const j = Math.floor(y);
    return i >= 0 && j >= 0 && i < width && j < height && data[4 * (j * width + i) + 3] > 127;
  };
}
