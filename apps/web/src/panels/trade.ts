import type { TradePoint } from '@lurn/core';

/** The shake that is left at a zoom, between those where it is known; null where none is. */
export function shakeAt(trade: readonly TradePoint[], zoom: number): number | null {
  if (trade.length === 0) return null;
  const after = trade.findIndex((point) => point.zoom >= zoom);
  if (after === 0) return trade[0].shake;
  if (after < 0) return trade[trade.length - 1].shake;
  const [a, b] = [trade[after - 1], trade[after]];
  return a.shake + ((zoom - a.zoom) / (b.zoom - a.zoom)) * (b.shake - a.shake);
}
