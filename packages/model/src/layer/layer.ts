import {
  blendModes,
  colourKeyDefaults,
  contentKinds,
  easings,
  FormatError,
  keeps,
  kindOfContent,
  layerDefaults,
  squareTo,
  type ColourKey,
  type Layer,
  type LayerContent,
  type LayerKey,
  type Match,
  type Matte,
  type MotionBlur,
} from '@lurn/core';
import {
  Choice,
  Colour,
  Flag,
  Frame,
  Num,
  OneOf,
  Part,
  Parts,
  Pixels,
  Reference,
  Share,
  Whole,
  Words,
} from '../fields.js';
import { read } from '../read.js';
import { CarrierRecord } from './carrier.js';
import { contentRecords } from './contents.js';
import { mostFeather, ShapeRecord } from './shape.js';

/** Another layer, inside or outside whose shape one is seen. */
export class LayerMatteRecord {
  @Choice(keeps) keep!: Matte['keep'];
  @Reference({ description: 'Another layer, whose shape holds it out' }) layerId!: string;
}

/** A region; what is held out of it holds the layer out, too. */
export class RegionMatteRecord {
  @Choice(keeps) keep!: Matte['keep'];
  @Reference({ description: 'A region, of which what is held out does' }) regionId!: string;
  @Num(0, mostFeather, { description: 'Pixels over which it fades' }) feather: number = 0;
}

/** A colour of the picture below that holds a layer out. */
export class ColourKeyRecord implements ColourKey {
  @Colour() colour: ColourKey['colour'] = colourKeyDefaults.colour;
  @Share({ description: 'How far a colour may be off, of all of chroma' }) range: number =
    colourKeyDefaults.range;
  @Share({ description: 'Over how much it fades from there' }) softness: number = colourKeyDefaults.softness;

  @Num(-100, 100, { description: 'By how many pixels it is drawn in; spread where negative' })
  choke: number = colourKeyDefaults.choke;

  @Share({ description: 'How much of its tinge is taken off about its edges' })
  spill: number = colourKeyDefaults.spill;

  @Choice(keeps) keep: ColourKey['keep'] = colourKeyDefaults.keep;
}

const { soften, grain, black, white } = layerDefaults.match;

/** What has a picture, a clip or words sit in what is about them. */
export class MatchRecord implements Match {
  @Num(0, 100, { description: 'Standard deviation, pixels' }) soften: number = soften;
  @Share({ description: 'Standard deviation, of all of luma' }) grain: number = grain;
  @Share({ description: 'What black becomes' }) black: number = black;
  @Share({ description: 'What white becomes' }) white: number = white;
}

const { shutter, samples } = layerDefaults.motionBlur;

/** Blur of a picture, a clip or words by their own way. */
export class MotionBlurRecord implements MotionBlur {
  @Share({ description: 'For how much of a frame it is open' }) shutter: number = shutter;
  @Whole(1, 64) samples: number = samples;
}

/** Where a layer is put beside where it was drawn. */
export class LayerKeyRecord implements LayerKey {
  @Frame() frame!: number;
  @Choice(easings) easing!: LayerKey['easing'];
  @Pixels() x!: number;
  @Pixels() y!: number;
  @Num(-1000, 1000, { description: 'Radians, clockwise' }) rotation!: number;
  @Num(0.001, 1000) scale!: number;
  @Share({ description: 'A factor on its opacity' }) opacity!: number;
  @Num(0, 100, { description: 'A factor on a cover’s strength' }) strength!: number;
}

/** A layer as people may send it: lengths and places are pixels of the clip on the frame that it was drawn on, angles radians. */
export class LayerRecord {
  @Words(0, 120, { optional: true }) id?: string;
  @Words(0, 120, { optional: true }) clipId?: string;
  @Words(1, 200, { description: 'What it is called' }) name!: string;
  @Flag({ description: 'Not drawn' }) hidden: boolean = layerDefaults.hidden;

  @Frame({ description: 'The first frame on which it is seen; the clip’s when left out', optional: true })
  first?: number;

  @Frame({ description: 'The last one; the clip’s when left out', optional: true }) last?: number;

  @Frame({ description: 'The frame that it was drawn on; the first when left out', optional: true })
  frame?: number;

  @Part(() => CarrierRecord) carrier: CarrierRecord = new CarrierRecord();

  @OneOf(
    () => Object.values(contentRecords),
    (given) => contentRecords[(given as Partial<LayerContent>).kind as LayerContent['kind']],
    `has a "kind": ${contentKinds.join(', ')}`,
    { description: 'What it shows' },
  )
  content!: LayerContent;

  @Part(() => ShapeRecord) shape: ShapeRecord = new ShapeRecord();

  @Choice(blendModes, { description: 'A mode of W3C Compositing' })
  blend: Layer['blend'] = layerDefaults.blend;

  @Share({ description: 'How much of it is seen' }) opacity: number = layerDefaults.opacity;

  @OneOf(
    () => [LayerMatteRecord, RegionMatteRecord],
    (given) => ('regionId' in given ? RegionMatteRecord : LayerMatteRecord),
    'names another layer in "layerId", or a region in "regionId" with a "feather" of so many pixels, and "keep": inside or outside',
    { nullable: true },
  )
  matte: Matte | null = null;

  @Part(() => ColourKeyRecord, { nullable: true }) key: ColourKeyRecord | null = null;
  @Part(() => MatchRecord) match: MatchRecord = new MatchRecord();
  @Part(() => MotionBlurRecord) motionBlur: MotionBlurRecord = new MotionBlurRecord();

  @Parts(() => LayerKeyRecord, { most: 10_000, description: 'Where it is put beside where it was drawn' })
  keys: LayerKeyRecord[] = [];

  @Whole(-1_000_000, 1_000_000, { optional: true, description: 'Its place in the list' })
  position?: number;

  @Flag({ optional: true, description: 'Cannot be changed' }) locked?: boolean;
  @Flag({ optional: true, description: 'Seen alone, with the others that are' }) solo?: boolean;
}

const nameOf = (view: unknown): string => {
  const { name } = (view ?? {}) as { name?: unknown };
  return `Layer "${typeof name === 'string' && name ? name.slice(0, 200) : 'without a name'}"`;
};

/**
 * A layer as project files and recipes have it, for a clip of so many frames; what is left out has its default. Throws a
 * FormatError of one sentence that names the layer.
 */
export function readLayer(view: unknown, frames: number): Layer {
  const named = nameOf(view);
  const {
    id = '',
    clipId: _,
    position: __,
    locked: ___,
    solo: ____,
    ...given
  } = read(LayerRecord, view, named);
  const wrong = (what: string): FormatError => new FormatError(`${named}: ${what}`);
  const { first = 0, last = frames - 1, content, shape, carrier } = given;
  const { frame = first } = given;
  if (first > last || last >= frames)
    throw wrong(`frames ${first} to ${last} are no span of the clip; its frames are 0 to ${frames - 1}.`);
  if (frame >= frames)
    throw wrong(`it was drawn on frame ${frame}, which the clip has not; its frames are 0 to ${frames - 1}.`);
  for (const [one, what] of [
    [carrier, 'it'],
    [shape.carrier, 'its shape'],
  ] as const)
    if (one?.kind === 'tracks' && one.trackIds.length === 0)
      throw wrong(`${what} is carried by tracks, but names none in "trackIds".`);
  const { needsOutline, quad } = kindOfContent(content);
  if (needsOutline && shape.parts.length === 0 && !shape.invert)
    throw wrong('it has no outline: give its shape a part.');
  const corners = quad?.(content, null);
  if (corners && !squareTo(corners)) throw wrong('its corners lie in a line.');
  const shown =
    content.kind === 'repair' ? { ...content, strokes: strokesFor(content.strokes, frames, wrong) } : content;
  return { ...given, ...{ id, first, last, frame, content: shown } };
}

/** Strokes with their last frames; those that are seen on frames that the clip has not are refused. */
function strokesFor<S extends { from: number; first: number; last?: number }>(
  strokes: readonly S[],
  frames: number,
  wrong: (what: string) => FormatError,
): (S & { last: number })[] {
  return strokes.map((stroke, i) => {
    const { from, first, last = frames - 1 } = stroke;
    if (from >= frames || first > last || last >= frames)
      throw wrong(`stroke ${i + 1}: the frames of the clip are 0 to ${frames - 1}.`);
    return { ...stroke, last };
  });
}
