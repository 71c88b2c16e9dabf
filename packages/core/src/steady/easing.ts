/** How one goes from a key to the next: not until it, evenly, or gently out of the one and into the other. */
export const easings = ['step', 'linear', 'ease'] as const;
export type Easing = (typeof easings)[number];

/** How much of the way is behind one at a share of the time, both 0 to 1. */
export function eased(share: number, easing: Easing): number {
  const t = Math.min(Math.max(share, 0), 1);
  if (easing === 'step') return t < 1 ? 0 : 1;
  return easing === 'linear' ? t : t * t * (3 - 2 * t);
}
