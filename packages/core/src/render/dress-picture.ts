import { textScale } from '../dress/content/text.js';
import type { DressOperation, MaskRecipe } from '../dress/operation.js';
import { apply, identity, multiply, scaling, type Mat3 } from '../geometry/mat3.js';
import { holdOutByColour } from './colour-key.js';
import { cover, originOf } from './cover-picture.js';
import { holdOut, type Dressed } from './dressed.js';
import { lay } from './lay-picture.js';
import { lightAbout, type LightAbout } from './light-about.js';
import type { LayingRoom } from './laying-room.js';
import { exposed, exposedPicture, type LayerBuffer } from './layer-buffer.js';
import { PictureSampler, PlainSampler, type LayerPicture, type Sampler } from './picture-sampler.js';
import { recolour } from './recolour.js';
import { maskBox, maskIn, type Mask } from './shape-mask.js';
import type { PixelBox } from './warp-picture.js';
import { planeLayout, type YuvFormat } from './yuv-picture.js';

/**
 * Does operations to a picture, in order, where it lies: planar luma and chroma, eight bits or more. Operations are in pixels of
 * the clip, the picture may be smaller by `scale`. Where a mask is nothing no level changes. How much of each pixel is covered
 * by any of them is added up in `matte`, a number a pixel, where that is given. With a `room` in the kernels' memory, where the picture lies, too, kernels do what they can.
 */
export function dressPicture(
  levels: Uint8Array | Uint16Array,
  format: YuvFormat,
  operations: readonly DressOperation[],
  pictures: ReadonlyMap<string, LayerPicture>,
  scale: { x: number; y: number } = { x: 1, y: 1 },
  matte?: Float32Array,
  room?: LayingRoom,
): void {
  const dressed: Dressed = { levels, format, planes: planeLayout({ ...format, alpha: false }) };
  for (const given of operations) {
    const operation = given.content.kind === 'text' ? asPicture(given, pictures) : given;
    if (!operation || operation.content.kind === 'text') continue;
    const { content, blend, opacity } = operation;
    const recipe = scaledMask(operation.mask, scale);
    const shown = content.kind === 'picture' ? pictures.get(content.asset) : undefined;
    if (content.kind === 'picture' && !shown) continue;
    const matrix =
      content.kind === 'picture' ? multiply(scaling(scale.x, scale.y), content.frameFromPicture) : identity;
    const light =
      shown && content.kind === 'picture' && content.follow
        ? lightAbout(dressed, shown, matrix, recipe)
        : null;
    const buffer =
      shown && (light || isExposed(operation))
        ? exposedIn(operation, recipe, shown, matrix, format, scale, light)
        : null;
    const box = buffer ? buffer.box : maskBox(recipe, format);
    if (!box) continue;
    const mask = buffer ? wholeMask(box) : maskIn(recipe, box);
    if (opacity < 1) mask.alpha.forEach((v, i) => (mask.alpha[i] = v * opacity));
    if (operation.matte)
      holdOut(mask, maskIn(scaledMask(operation.matte.mask, scale), box), operation.matte.keep);
    if (operation.key) holdOutByColour(dressed, mask, operation.key, Math.sqrt(scale.x * scale.y));
    const sampler = buffer ?? (shown ? new PictureSampler(shown, matrix) : null);
    if (matte) addTo(matte, format.width, mask, sampler);
    if (content.kind === 'colour') recolour(dressed, mask, content);
    else if (sampler) {
      const isLaid =
        blend === 'normal' && sampler instanceof PictureSampler && room?.lay(dressed, mask, sampler);
      if (!isLaid) lay(dressed, mask, sampler, blend);
    } else if (content.kind !== 'cover') continue;
    else if (blend === 'normal') cover(dressed, mask, content, scale, originOf(recipe));
    else lay(dressed, mask, new PlainSampler(...content.colour), blend);
  }
}

const isExposed = ({ exposures, match }: DressOperation): boolean =>
  exposures.length > 1 || match.soften > 0 || match.grain > 0 || match.black > 0 || match.white < 1;

/** A picture as it is exposed and matched, in a box that it reaches. */
function exposedIn(
  { exposures, match, frame }: DressOperation,
  recipe: MaskRecipe,
  picture: LayerPicture,
  matrix: Mat3,
  format: YuvFormat,
  scale: { x: number; y: number },
  light: LightAbout | null,
): LayerBuffer | null {
  const [there, back] = [scaling(scale.x, scale.y), scaling(1 / scale.x, 1 / scale.y)];
  const scaled = exposures.map((by) => multiply(there, multiply(by, back)));
  const soften = match.soften * Math.sqrt(scale.x * scale.y);
  const reach = 2 * Math.ceil(1.5 * soften);
  const boxes = scaled.flatMap((by) => maskBox(exposed(recipe, by), format) ?? []);
  if (boxes.length === 0) return null;
  const box = {
    left: Math.max(0, Math.min(...boxes.map(({ left }) => left)) - reach),
    top: Math.max(0, Math.min(...boxes.map(({ top }) => top)) - reach),
    right: Math.min(format.width, Math.max(...boxes.map(({ right }) => right)) + reach),
    bottom: Math.min(format.height, Math.max(...boxes.map(({ bottom }) => bottom)) + reach),
  };
  const grain = Math.hypot(match.grain, light?.grain ?? 0);
  return exposedPicture(
    box,
    picture,
    matrix,
    recipe,
    scaled,
    { ...match, soften, grain },
    frame,
    light?.gains,
  );
}

const wholeMask = (box: PixelBox): Mask => ({
  box,
  alpha: new Float32Array((box.right - box.left) * (box.bottom - box.top)).fill(1),
});

/** Adds what a mask covers to what is covered already. */
function addTo(matte: Float32Array, stride: number, { box, alpha }: Mask, sampler: Sampler | null): void {
  const width = box.right - box.left;
  const colours = new Float32Array(4 * width);
  for (let y = box.top; y < box.bottom; y++) {
    sampler?.row(colours, box.left + 0.5, y + 0.5, 1, width);
    for (let x = 0; x < width; x++) {
      const m = alpha[(y - box.top) * width + x];
      if (m === 0) continue;
      const at = y * stride + box.left + x;
      matte[at] += (1 - matte[at]) * m * (sampler ? colours[4 * x + 3] : 1);
    }
  }
}

/** Words as a picture in a quad of its size; null where there is no picture of them. */
function asPicture(
  operation: DressOperation,
  pictures: ReadonlyMap<string, LayerPicture>,
): DressOperation | null {
  const { content, mask } = operation;
  if (content.kind !== 'text') return operation;
  const picture = pictures.get(content.asset);
  if (!picture) return null;
  const [w, h] = [picture.width / textScale, picture.height / textScale];
  const square: Mat3 = [w, 0, -w / 2, 0, h, -h / 2, 0, 0, 1];
  const frameFromPicture = multiply(content.frameFromMiddle, square);
  const corners = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ].map(([x, y]) => apply(frameFromPicture, x, y));
  const outlines = mask.outlines.length > 0 ? mask.outlines : [{ points: corners, cut: false }];
  return {
    ...operation,
    mask: { ...mask, outlines },
    content: { kind: 'picture', asset: content.asset, frameFromPicture },
  };
}

const scaledMask = (mask: MaskRecipe, { x, y }: { x: number; y: number }): MaskRecipe => {
  const mean = Math.sqrt(x * y);
  return {
    ...mask,
    featherIn: mask.featherIn * mean,
    featherOut: mask.featherOut * mean,
    choke: mask.choke * mean,
    outlines: mask.outlines.map(({ points, cut }) => ({
      points: points.map((p) => ({ x: p.x * x, y: p.y * y })),
      cut,
    })),
  };
};
