import {
  SceneMotions,
  steady,
  tradeAt,
  type HeldScene,
  type SteadyResult,
  type TradePoint,
} from '@lurn/core';
import { SampleKeeper } from './sample-keeper';
import type { SolvingNews, SolvingOrder } from './solving-order';

const keeper = new SampleKeeper();

let motions: SceneMotions | null = null;

/** The scene of an order, with the motions that came with it or before it. */
function sceneOf(order: SolvingOrder['scene']): HeldScene | null {
  if (!order) return (motions = null);
  if (order.pages) {
    motions = new SceneMotions(order.shots);
    for (const [page, bytes] of order.pages) motions.unpackPage(page, bytes);
  }
  return motions && { shots: order.shots, choices: order.choices, motions };
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
  const result: SteadyResult = steady(keeper.take(tracks, clip.times.frames), clip, settings, sceneOf(scene));
  const { placements, correction, motion } = result;
  const { range, referenceFrame, channels, strength, model } = settings;
  const key = JSON.stringify([
    ...[tracks.map(({ id }) => id), scene?.choices, range, referenceFrame, channels, strength, model],
  ]);
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
  tell({ result }, [placements.buffer, correction.matrices.buffer, motion.matrices.buffer]);
};
