import { blendModes } from '../dress/blend.js';
import {
  contentKinds,
  type Carrier,
  type ColourKey,
  type Layer,
  type LayerContent,
  type LayerShape,
  type Match,
  type MotionBlur,
  type ShapeKey,
  type ShapePart,
} from '../dress/layer.js';
import type { SplineKnot } from '../geometry/closed-spline.js';
import { motionModels } from '../solve/fit-model.js';
import { easings } from '../steady/easing.js';
import { FormatError } from './format-error.js';
import { readStrokes } from './stroke-record.js';

/** What stands in for what a layer's record leaves out. */
export const layerDefaults = {
  hidden: false,
  blend: 'normal',
  opacity: 1,
  matte: null,
  key: null,
  keys: [],
  match: { soften: 0, grain: 0, black: 0, white: 1 },
  motionBlur: { shutter: 0, samples: 8 },
  carrier: { kind: 'still', trackIds: [], model: 'auto', position: true, rotation: true, scale: true },
  shape: { parts: [], featherIn: 0, featherOut: 0, choke: 0, invert: false, carrier: null, keys: [] },
} as const satisfies Partial<Layer>;

const contentDefaults: { [K in LayerContent['kind']]: Extract<LayerContent, { kind: K }> } = {
  cover: { kind: 'cover', how: 'averaged', colour: [0, 0, 0], strength: 16 },
  colour: {
    ...({ kind: 'colour', hue: 0, saturation: 1, contrast: 1, brightness: 0 } as const),
    ...{ lightness: 0, curve: [], tint: [1, 1, 1], tintAmount: 0 },
  },
  picture: { kind: 'picture', asset: '', quad: [] },
  clip: { kind: 'clip', clip: '', from: 0, play: 'loop', quad: [] },
  text: {
    ...({
      kind: 'text',
      text: 'Text',
      font: '',
      weight: 600,
      size: 48,
      colour: [1, 1, 1],
      outline: 0,
    } as const),
    ...({ outlineColour: [0, 0, 0], align: 'center', lineSpacing: 1.2, x: 0, y: 0, turn: 0 } as const),
  },
  fill: { kind: 'fill', frames: 15, follow: true },
  repair: { kind: 'repair', strokes: [], follow: true },
};

/** A layer's content of a kind as it begins. */
export const freshContent = <K extends LayerContent['kind']>(kind: K): Extract<LayerContent, { kind: K }> =>
  contentDefaults[kind];

const own = ['id', 'clipId', 'position', 'locked', 'solo'];
/** A colour key as it begins. */
export const colourKeyDefaults = {
  colour: [0, 1, 0],
  range: 0.1,
  softness: 0.05,
  choke: 0,
  spill: 0,
  keep: 'outside',
} as const;
const fields = ['name', 'first', 'last', 'frame', 'content', ...Object.keys(layerDefaults), ...own];

/** A layer that was kept when less could be said of one: what it leaves out has its default. */
export const completeLayer = <L extends Layer>(kept: L): L => ({
  ...layerDefaults,
  ...kept,
  carrier: { ...layerDefaults.carrier, ...kept.carrier },
  shape: { ...layerDefaults.shape, ...kept.shape },
  content: { ...freshContent(kept.content.kind), ...kept.content },
  key: kept.key && { ...colourKeyDefaults, ...kept.key },
});

/** Letters of a text. */
const mostText = 2000;
/** The fewest knots of an outline. */
const fewestKnots = 3;
/** Frames that a fill is made of. */
const mostFillFrames = 61;
/** Samples of a motion blur. */
const mostSamples = 64;

/**
 * A layer as project files and recipes have it, for a clip of so many frames; what is left out has its default. Throws a
 * FormatError of one sentence that names the layer.
 */
export function readLayer(view: unknown, frames: number): Layer {
  if (typeof view !== 'object' || view === null) throw new FormatError('A layer is an object.');
  const given = view as Partial<Layer>;
  const name = typeof given.name === 'string' && given.name ? given.name : 'without a name';
  const wrong = (what: string): FormatError => new FormatError(`Layer "${name}": ${what}`);
  const known = (of: object, names: readonly string[], what: string): void => {
    const odd = Object.keys(of).find((key) => !names.includes(key));
    if (odd)
      throw wrong(`${what} has no "${odd}"; it has ${names.filter((n) => !own.includes(n)).join(', ')}.`);
  };
  const isNumber = (...values: unknown[]): boolean => values.every(Number.isFinite);
  const isShare = (value: unknown): boolean => isNumber(value) && Number(value) >= 0 && Number(value) <= 1;
  const isColour = (value: unknown): boolean =>
    Array.isArray(value) && value.length === 3 && value.every(isShare);
  const isOneOf = (choices: readonly string[], value: unknown): boolean => choices.includes(value as string);
  known(given, fields, 'a layer');
  const { first = 0, last = frames - 1, frame = first } = given;
  if (![first, last, frame].every(Number.isInteger) || first < 0 || first > last || last >= frames)
    throw wrong(
      `frames ${String(first)} to ${String(last)} are no span of the clip; its frames are 0 to ${frames - 1}.`,
    );
  if (frame < 0 || frame >= frames)
    throw wrong(`it was drawn on frame ${frame}, which the clip has not; its frames are 0 to ${frames - 1}.`);

  const carrierIn = (view: Partial<Carrier> | undefined, what: string): Carrier => {
    const carrier: Carrier = { ...layerDefaults.carrier, ...view };
    known(carrier, Object.keys(layerDefaults.carrier), '"carrier"');
    if (
      !isOneOf(['still', 'tracks', 'scene'], carrier.kind) ||
      !isOneOf(['auto', ...motionModels], carrier.model) ||
      !Array.isArray(carrier.trackIds)
    )
      throw wrong(`what carries ${what} cannot be read: "kind" is still, tracks or scene.`);
    if (carrier.kind === 'tracks' && carrier.trackIds.length === 0)
      throw wrong(`${what} is carried by tracks, but names none in "trackIds".`);
    return carrier;
  };
  const partsIn = (parts: unknown): ShapePart[] => {
    if (!Array.isArray(parts)) throw wrong('"parts" of its shape are a list.');
    return (parts as (Partial<ShapePart> | null)[]).map((part) => {
      const knots: unknown = part?.spline?.knots;
      if (
        !Array.isArray(knots) ||
        !(knots as (Partial<SplineKnot> | null)[]).every((k) => isNumber(k?.x, k?.y))
      )
        throw wrong('an outline is a list of knots with x and y.');
      if (knots.length < fewestKnots)
        throw wrong(
          `an outline of ${knots.length === 1 ? 'one point' : `${knots.length} points`} has no inside: it takes three.`,
        );
      const full = (knots as SplineKnot[]).map((knot) => ({ ...noHandles, ...knot }));
      return { cut: part?.cut ?? false, spline: { knots: full } };
    });
  };
  const carrier = carrierIn(given.carrier, 'it');

  const shape: LayerShape = { ...layerDefaults.shape, ...given.shape };
  known(shape, Object.keys(layerDefaults.shape), '"shape"');
  if (
    !isNumber(shape.featherIn, shape.featherOut, shape.choke) ||
    shape.featherIn < 0 ||
    shape.featherOut < 0
  )
    throw wrong('feather and choke are numbers of pixels.');
  const isShapeKey = (key: Partial<ShapeKey> | null): key is ShapeKey =>
    Number.isInteger(key?.frame) && isOneOf(easings, key?.easing);
  if (!Array.isArray(shape.keys) || !shape.keys.every(isShapeKey))
    throw wrong('the keys of its shape cannot be read.');
  const full: LayerShape = {
    ...shape,
    parts: partsIn(shape.parts),
    carrier: shape.carrier && carrierIn(shape.carrier, 'its shape'),
    keys: shape.keys.map((key) => ({ ...key, parts: partsIn(key.parts) })),
  };

  const kind = given.content?.kind;
  if (!kind || !isOneOf(contentKinds, kind)) throw wrong(`what it shows is ${contentKinds.join(', ')}.`);
  const defaults: LayerContent = freshContent(kind);
  const content: LayerContent = { ...defaults, ...given.content };
  known(content, Object.keys(defaults), `"content" of a ${kind}`);
  const sound =
    content.kind === 'cover'
      ? isOneOf(['averaged', 'plain', 'mosaic', 'blur'], content.how) &&
        isColour(content.colour) &&
        isNumber(content.strength)
      : content.kind === 'colour'
        ? isNumber(
            ...[content.hue, content.saturation, content.contrast, content.brightness],
            ...[content.lightness, ...content.curve],
          ) &&
          content.curve.length % 2 === 0 &&
          content.curve.every(isShare) &&
          isColour(content.tint) &&
          isShare(content.tintAmount)
        : content.kind === 'text'
          ? typeof content.text === 'string' &&
            content.text.length <= mostText &&
            typeof content.font === 'string' &&
            isNumber(
              content.x,
              content.y,
              content.turn,
              content.weight,
              content.size,
              content.outline,
              content.lineSpacing,
            ) &&
            content.size > 0 &&
            content.size <= 2000 &&
            content.outline >= 0 &&
            isColour(content.colour) &&
            isColour(content.outlineColour) &&
            isOneOf(['left', 'center', 'right'], content.align)
          : content.kind === 'fill'
            ? Number.isInteger(content.frames) &&
              content.frames >= 1 &&
              content.frames <= mostFillFrames &&
              typeof content.follow === 'boolean'
            : content.kind === 'repair'
              ? typeof content.follow === 'boolean'
              : content.quad.length === 8 &&
                isNumber(...content.quad) &&
                (content.kind === 'picture'
                  ? typeof content.asset === 'string'
                  : typeof content.clip === 'string' &&
                    Number.isInteger(content.from) &&
                    content.from >= 0 &&
                    isOneOf(['loop', 'hold', 'still'], content.play));
  if (!sound) throw wrong(`what is said of its ${kind} cannot be read.`);
  const shown: LayerContent =
    content.kind === 'repair'
      ? { ...content, strokes: readStrokes(content.strokes, frames, wrong) }
      : content;
  if (
    !isOneOf(['picture', 'clip', 'text', 'repair'], content.kind) &&
    shape.parts.length === 0 &&
    !shape.invert
  )
    throw wrong('it has no outline: give its shape a part.');

  const { blend = 'normal', opacity = 1, hidden = false, keys = [], matte = null, id = '' } = given;
  const isKeep = (value: unknown): boolean => isOneOf(['inside', 'outside'], value);
  const held: Layer['matte'] =
    matte && 'regionId' in matte ? { ...matte, feather: matte.feather ?? 0 } : matte;
  const isMatte =
    held === null ||
    ('regionId' in held
      ? typeof held.regionId === 'string' && isNumber(held.feather) && held.feather >= 0
      : typeof held.layerId === 'string');
  if (!isMatte || (held && !isKeep(held.keep)))
    throw wrong(
      'its "matte" names another layer in "layerId", or a region in "regionId" with a "feather" of so many pixels, and "keep": inside or outside.',
    );
  const key: ColourKey | null = given.key ? { ...colourKeyDefaults, ...given.key } : null;
  if (key) {
    known(key, Object.keys(colourKeyDefaults), '"key"');
    if (
      !isColour(key.colour) ||
      !isShare(key.range) ||
      !isShare(key.softness) ||
      !isShare(key.spill) ||
      !isNumber(key.choke) ||
      !isKeep(key.keep)
    )
      throw wrong('its colour key cannot be read.');
  }
  if (!isOneOf(blendModes, blend))
    throw wrong(`"${String(blend)}" is no blend mode: ${blendModes.join(', ')}.`);
  if (!isShare(opacity)) throw wrong('its opacity is a number from 0 to 1.');
  const isKey = (key: Layer['keys'][number]): boolean =>
    Number.isInteger(key?.frame) &&
    isOneOf(easings, key.easing) &&
    isNumber(key.x, key.y, key.rotation, key.scale, key.opacity, key.strength) &&
    key.scale > 0;
  if (!Array.isArray(keys) || !keys.every(isKey)) throw wrong('its keys cannot be read.');
  const match: Match = { ...layerDefaults.match, ...given.match };
  known(match, Object.keys(layerDefaults.match), '"match"');
  if (!isNumber(match.soften) || match.soften < 0 || ![match.grain, match.black, match.white].every(isShare))
    throw wrong('its "match" cannot be read: soften is pixels, grain, black and white are from 0 to 1.');
  const motionBlur: MotionBlur = { ...layerDefaults.motionBlur, ...given.motionBlur };
  known(motionBlur, Object.keys(layerDefaults.motionBlur), '"motionBlur"');
  const { shutter, samples } = motionBlur;
  if (!isShare(shutter) || !isNumber(samples) || samples < 1 || samples > mostSamples)
    throw wrong(`its motion blur cannot be read: a shutter from 0 to 1, and 1 to ${mostSamples} samples.`);
  return {
    id,
    name,
    hidden,
    first,
    last,
    frame,
    carrier,
    content: shown,
    shape: full,
    blend,
    opacity,
    matte: held,
    key,
    match,
    motionBlur,
    keys,
  };
}

const noHandles = { inX: 0, inY: 0, outX: 0, outY: 0 };
