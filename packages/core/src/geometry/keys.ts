/** The keys before and after a frame and how far it lies between them, 0 to 1; beside them all the nearest alone. There is one at least. */
export function keysAbout<K extends { frame: number }>(
  keys: readonly K[],
  frame: number,
): { before: K; after: K; share: number } {
  const next = keys.findIndex((key) => key.frame > frame);
  const before = keys[next < 0 ? keys.length - 1 : Math.max(next - 1, 0)];
  const after = next <= 0 ? before : keys[next];
  const share = before === after ? 0 : (frame - before.frame) / (after.frame - before.frame);
  return { before, after, share };
}

/** Keys with one set, in order; what is on its frame gives way. */
export const withKey = <K extends { frame: number }>(keys: readonly K[], key: K): K[] =>
  [...keys.filter(({ frame }) => frame !== key.frame), key].sort((a, b) => a.frame - b.frame);
