import {
  CollapsedMotion,
  FeaturePages,
  heldOutPaths,
  roomOver,
  SceneMotions,
  shakeOf,
  steady,
  tradeAt,
  viewOf,
  type FeaturePath,
  type HeldScene,
  type Placing,
  type ShakeReport,
  type SteadyClip,
  type SteadySettings,
  type SteadyResult,
  type TradePoint,
} from '@lurn/core';
import { SampleKeeper } from './sample-keeper';
import type { SolvingNews, SolvingOrder } from './solving-order';

const keeper = new SampleKeeper();

let motions: SceneMotions | null = null;
let features: FeaturePages | null = null;
/** The paths that shake is measured on, and what they were gathered for. */
let paths: FeaturePath[] = [];
let pathsOf = '';

/** The scene of an order, with the motions that came with it or before it. */
function sceneOf(order: SolvingOrder['scene']): HeldScene | null {
  if (!order) return (motions = features = null);
  if (order.features) {
    features = new FeaturePages(order.features);
    pathsOf = '';
  }
  if (order.pages) {
    motions = new SceneMotions(order.shots);
    for (const [page, bytes] of order.pages) motions.unpackPage(page, bytes);
  }
  return motions && { shots: order.shots, choices: order.choices, motions };
}

/** The room is worked out on so many frames at most: about one a pixel of the curves. */
const mostRooms = 400;

let measuring: ReturnType<typeof setTimeout> | undefined;

/** What shakes on the features of what is held that no solve has seen; null where there is no scene. */
function shakeIn(
  order: SolvingOrder['scene'],
  placing: Placing,
  clip: SteadyClip,
  range: SteadySettings['range'],
): ShakeReport | null {
  if (!order || !features) return null;
  const wanted = JSON.stringify(order.choices.map(({ group, depth }) => [group, depth === null]));
  if (wanted !== pathsOf) paths = heldOutPaths(features, order.shots, order.choices);
  pathsOf = wanted;
  return shakeOf(paths, placing, clip.times, range);
}

/** The zooms at which the trade between zoom and shake is worked out. */
const zooms = [1.01, 1.03, 1.05, 1.08, 1.12, 1.16, 1.2, 1.26, 1.32, 1.4];

/** What the trade was worked out for, and as far as it has come. */
let known = '';
let trade: TradePoint[] = [];
let next: ReturnType<typeof setTimeout> | undefined;

const tell = (news: SolvingNews, transfer: ArrayBufferLike[] = []): void =>
  self.postMessage(news, { transfer: transfer as ArrayBuffer[] });

self.onmessage = ({ data: { tracks, clip, settings, scene } }: MessageEvent<SolvingOrder>) => {
  clearTimeout(next);
  if (tracks.some(({ fresh, pages }) => fresh || pages.length > 0) || scene?.pages) known = '';
  const samples = keeper.take(tracks, clip.times.frames);
  let result: SteadyResult;
  try {
    result = steady(samples, clip, settings, sceneOf(scene));
  } catch (error) {
    if (!(error instanceof CollapsedMotion)) throw error;
    clearTimeout(measuring);
    return tell({ collapsedOn: error.frame });
  }
  const { placements, correction, motion, rows } = result;
  const placed = placements.slice();
  const { range, referenceFrame, channels, strength, model, spans, rollingShutter, within, output } =
    settings;
  const used = tracks.map(({ id }) => id);
  const key = JSON.stringify({
    used,
    held: scene?.choices,
    range,
    referenceFrame,
    channels,
    strength,
    model,
    spans,
    rollingShutter,
    within,
    output,
  });
  if (settings.mode === 'smooth' && settings.kind === 'composed') {
    if (key !== known) trade = [];
    known = key;
    const kept = { ...motion, matrices: motion.matrices.slice() };
    // One zoom at a time, so that a new order need not wait for all of them.
    const go = (): void => {
      const zoom = zooms[trade.length];
      if (zoom === undefined) return;
      trade = [...trade, tradeAt(kept, clip, settings, zoom)];
      tell({ trade });
      next = setTimeout(go);
    };
    next = setTimeout(go, 30);
  }
  clearTimeout(measuring);
  measuring = setTimeout(
    () =>
      tell({
        shake: shakeIn(scene, { placements: placed, rows }, clip, settings.range),
        room: roomOver(placed, viewOf(clip, settings.output), settings.range, mostRooms, rows),
      }),
    60,
  );
  tell({ result }, [placements.buffer, correction.matrices.buffer, motion.matrices.buffer]);
};
