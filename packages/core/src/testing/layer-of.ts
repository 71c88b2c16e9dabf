import { completeLayer, type Layer } from '../dress/layer.js';
import { strokeDefaults, type Stroke } from '../dress/stroke.js';

/** A layer on a clip of so many frames, of what a test says of it. */
export function layerOf(
  part: { name: string; content: object } & Record<string, unknown>,
  frames: number,
): Layer {
  const { strokes: given } = part.content as { strokes?: object[] };
  const strokes = given?.map((one) => ({ ...strokeDefaults(frames), ...one }) as Stroke);
  const content = strokes ? { ...part.content, strokes } : part.content;
  return completeLayer({
    id: '',
    first: 0,
    last: frames - 1,
    frame: 0,
    ...part,
    content,
  } as unknown as Layer);
}
