import { defaultPointOptions, type PointTrackerOptions, type Size } from './point-tracker.js';

/** The width of picture, in pixels, that the usual boxes are made for. */
const usual = 1920;
/** A box takes no more than this share of a small picture, but has so many pixels. */
const mostOfPicture = 1 / 8;
const fewest = 21;

/**
 * The boxes that a point begins with in a clip of a size, clip pixels: the usual ones; in a small picture smaller, that they
 * show one thing and leave room for others; in a large one larger, where the same things take more, softer pixels, yet
 * not by as much as the picture, for the sake of speed.
 */
export function startingBoxes(clip: Size): Pick<PointTrackerOptions, 'template' | 'search'> {
  const across = Math.max(clip.width, clip.height);
  const { width: wanted } = defaultPointOptions.template;
  const large = wanted * Math.sqrt(Math.max(across / usual, 1));
  const side = Math.max(Math.min(large, across * mostOfPicture), fewest);
  const template = Math.round(side) | 1;
  const search = 4 * template - 3;
  return {
    template: { width: template, height: template },
    search: { width: search, height: search },
  };
}
