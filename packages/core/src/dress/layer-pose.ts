import { keysAbout } from '../geometry/keys.js';
import { eased } from '../steady/easing.js';
import type { LayerKey, LayerPose } from './layer.js';

export const drawnPose: LayerPose = { x: 0, y: 0, rotation: 0, scale: 1, opacity: 1, strength: 1 };

/** Where a layer is put on a frame: between keys as the earlier one says, before the first and after the last as that. */
export function layerPoseAt(keys: readonly LayerKey[], frame: number): LayerPose {
  if (keys.length === 0) return drawnPose;
  const about = keysAbout(keys, frame);
  const { before: a, after: b } = about;
  if (a === b) return a;
  const share = eased(about.share, a.easing);
  const between = (name: keyof LayerPose): number => a[name] + share * (b[name] - a[name]);
  return {
    x: between('x'),
    y: between('y'),
    rotation: between('rotation'),
    scale: a.scale * (b.scale / a.scale) ** share,
    opacity: between('opacity'),
    strength: between('strength'),
  };
}
