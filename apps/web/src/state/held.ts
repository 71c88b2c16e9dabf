import {
  apply,
  boxCorners,
  invert,
  layerDefaults,
  matrixAt,
  multiply,
  quadFromQuad,
  quadProportion,
  type Mat3,
  type Quad,
} from '@lurn/core';
import { create } from 'zustand';
import { useDocument } from './document';
import { hold, useDressing, type HeldBy } from './dressing';
import { likelyCarrier, useLayers } from './layers';
import { usePlayhead } from './playhead';
import { isRegion, matrixOf } from './regions';
import { useView } from './view';

/** The clip held by something, to be worked on as on a still. */
interface HeldPicture {
  /** What holds it where no layer is chosen, and the frame that it is held as on. */
  own: HeldBy;
  /** A region is shown square on, so many pixels wide; null for as wide as it is there. */
  squared: boolean;
  width: number | null;
}

export const useHeld = create<HeldPicture>(() => ({
  own: { carrier: layerDefaults.carrier, frame: 0 },
  squared: false,
  width: null,
}));

/** Shows the clip held by the chosen layer's carrier, or else by the chosen tracks or the scene, as on the frame shown. */
export function holdPicture(): void {
  useHeld.setState({ own: { carrier: likelyCarrier(), frame: usePlayhead.getState().frame } });
  useView.setState({ view: 'held' });
}

/** What holds the picture; null where it is not shown held. */
function heldBy(): HeldBy | null {
  if (useView.getState().view !== 'held') return null;
  const { selected } = useLayers.getState();
  const layer = useDocument.getState().layers.find(({ id }) => id === selected);
  return layer ? { carrier: layer.carrier, frame: layer.frame } : useHeld.getState().own;
}

/** The region's quad on the frame that the picture is held as on; null where no region holds it. */
export function heldQuad(): Quad | null {
  const by = heldBy();
  const track = useDocument.getState().tracks.find(({ id }) => by?.carrier.trackIds.includes(id));
  const matrix = by && track && isRegion(track) ? matrixOf(track, by.frame) : null;
  if (!matrix || !track || !isRegion(track)) return null;
  return track.region.quad.map(({ x, y }) => apply(matrix, x, y)) as unknown as Quad;
}

/** About what is squared up, as a share of its width. */
const margin = 0.1;
const longest = 4096;

/** How the held picture is placed, and its size, clip pixels; nine numbers a frame, from the clip's picture. */
export interface HeldPlacing {
  placements: Float64Array;
  size: { width: number; height: number };
}

let made: { of: unknown[]; placing: HeldPlacing } | null = null;

export function heldPlacing(): HeldPlacing | null {
  const { clip } = useDocument.getState();
  const { squared, width } = useHeld.getState();
  const carriage = useDressing.getState().held;
  if (!clip || !carriage) return null;
  const quad = squared ? heldQuad() : null;
  const of = [carriage, clip.width, clip.height, width, JSON.stringify(quad)];
  if (made?.of.every((one, i) => one === of[i])) return made.placing;
  const fitted = quad && squareOn(quad, clip, width);
  const { frameFromLayer } = carriage;
  const placements = new Float64Array(frameFromLayer.length);
  for (let k = 0; k < placements.length / 9; k++) {
    const back = invert(matrixAt(frameFromLayer, k));
    placements.set(fitted ? multiply(fitted.matrix, back) : back, 9 * k);
  }
  const size = fitted?.size ?? { width: clip.width, height: clip.height };
  made = { of, placing: { placements, size } };
  return made.placing;
}

/** Brings a quad to a rectangle of its true proportion, with a margin about it. */
function squareOn(
  quad: Quad,
  clip: { width: number; height: number },
  wanted: number | null,
): { matrix: Mat3; size: { width: number; height: number } } | null {
  const along = (i: number, j: number): number => Math.hypot(quad[i].x - quad[j].x, quad[i].y - quad[j].y);
  const proportion = quadProportion(quad, { x: clip.width / 2, y: clip.height / 2 });
  const width = Math.min(wanted ?? Math.round(Math.max(along(0, 1), along(3, 2))), longest);
  const height = width / proportion;
  const [x, y] = [margin * width, margin * width];
  const matrix = quadFromQuad(boxCorners({ left: x, top: y, right: x + width, bottom: y + height }), quad);
  return matrix && { matrix, size: { width: Math.round(width + 2 * x), height: Math.round(height + 2 * y) } };
}

// Another layer chosen, another thing to hold by.
for (const store of [useView, useHeld, useLayers, useDocument]) store.subscribe(() => hold(heldBy()));
