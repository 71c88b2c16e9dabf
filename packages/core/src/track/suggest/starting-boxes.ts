import { defaultPointOptions, type PointTrackerOptions, type Size } from '../options.js';

/** The width of picture, in pixels, that the usual boxes are made for. */
const usual = 1920;
/** A box takes no more than this share of a small picture, but has so many pixels. */
const mostOfPicture = 1 / 8;
const fewest = 21;

type Boxes = Pick<PointTrackerOptions, 'template' | 'search'>;

/**
 * The boxes that a point begins with in a clip of a size, clip pixels: the usual ones; in a small picture smaller, that they
 * show one thing and leave room for others; in a large one larger, where the same things take more, softer pixels, yet
 * not by as much as the picture, for the sake of speed. Those `asked` for are taken; about any box the search goes as far.
 */
export function startingBoxes(clip: Size, asked: Partial<Boxes> = {}): Boxes {
  const across = Math.max(clip.width, clip.height);
  const { width: wanted } = defaultPointOptions.template;
  const large = wanted * Math.sqrt(Math.max(across / usual, 1));
  const side = Math.max(Math.min(large, across * mostOfPicture), fewest);
  const own = Math.round(side) | 1;
  const around = 3 * own - 3;
  const { template = { width: own, height: own } } = asked;
  const { search = { width: template.width + around, height: template.height + around } } = asked;
  return { template, search };
}
