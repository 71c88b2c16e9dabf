import { strokeKinds, strokeStep, type Stroke } from '../dress/stroke.js';

/** A repair's strokes, and a stroke's points. */
const mostStrokes = 500;
const mostStrokePoints = 2000;
/** Pixels across. */
const [thinnest, widest] = [0.5, 2000];

/** What stands in for what a stroke leaves out, on a clip of so many frames. */
export const strokeDefaults = (frames: number): Omit<Stroke, 'points'> => ({
  how: 'heal',
  width: 40,
  soft: 0.5,
  strength: 1,
  buildUp: false,
  colour: [0, 0, 0],
  from: 0,
  aside: [0, 0],
  first: 0,
  last: frames - 1,
});

/** Strokes as layers in files have them; throws what `wrong` makes of a sentence. */
export function readStrokes(view: unknown, frames: number, wrong: (what: string) => Error): Stroke[] {
  if (!Array.isArray(view) || view.length > mostStrokes)
    throw wrong(`its "strokes" are a list of no more than ${mostStrokes}.`);
  return view.map((given: Partial<Stroke> | null, i) => {
    const stroke: Partial<Stroke> = { ...strokeDefaults(frames), ...given };
    const told = (what: string): Error => wrong(`stroke ${i + 1}: ${what}`);
    const odd = Object.keys(stroke).find((key) => key !== 'points' && !(key in strokeDefaults(frames)));
    if (odd) throw told(`there is no "${odd}" of a stroke.`);
    const { how, points, width, soft, strength, buildUp, colour, from, aside, first, last } = stroke;
    const isShare = (v: unknown): boolean => Number.isFinite(v) && Number(v) >= 0 && Number(v) <= 1;
    if (!strokeKinds.some((kind) => kind === how)) throw told(`"how" is ${strokeKinds.join(', ')}.`);
    if (
      !Array.isArray(points) ||
      points.length < strokeStep ||
      points.length % strokeStep !== 0 ||
      points.length > strokeStep * mostStrokePoints ||
      !points.every((v, k) => (k % strokeStep === 2 ? isShare(v) : Number.isFinite(v)))
    )
      throw told(
        `"points" are x, y and pressure (0 to 1) of each, one after another, of no more than ${mostStrokePoints}.`,
      );
    if (!Number.isFinite(width) || Number(width) < thinnest || Number(width) > widest)
      throw told(`its width is from ${thinnest} to ${widest} pixels.`);
    if (!isShare(soft) || !isShare(strength) || typeof buildUp !== 'boolean')
      throw told('"soft" and "strength" are from 0 to 1, "buildUp" is true or false.');
    if (!Array.isArray(colour) || colour.length !== 3 || !colour.every(isShare))
      throw told('its colour is red, green and blue, each 0 to 1.');
    if (!Array.isArray(aside) || aside.length !== 2 || !aside.every(Number.isFinite))
      throw told('"aside" is how far aside it copies from: two numbers of pixels.');
    const isFrame = (v: unknown): boolean => Number.isInteger(v) && Number(v) >= 0 && Number(v) < frames;
    if (!isFrame(from) || !isFrame(first) || !isFrame(last) || Number(first) > Number(last))
      throw told(`the frames of the clip are 0 to ${frames - 1}.`);
    return stroke as Stroke;
  });
}
