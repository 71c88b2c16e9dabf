import { create } from 'zustand';

/** The tracks that are chosen, of which the selected one leads: its boxes have handles, its options show. */
export interface Selection {
  selected: string | null;
  /** The selected one among them. */
  chosen: ReadonlySet<string>;
}

/** Alone; besides the others, or no longer; or all from the selected one through to this. */
export type PointedAt = 'alone' | 'besides' | 'through';

export const alone = (id: string | null): Selection => ({ selected: id, chosen: new Set(id ? [id] : []) });

/** The first leads, unless the one that led is among them. */
export const allOf = (ids: readonly string[], selected: string | null = null): Selection => ({
  selected: selected !== null && ids.includes(selected) ? selected : (ids[0] ?? null),
  chosen: new Set(ids),
});

/** How a selection among `ids`, in the order they are shown in, changes when one is pointed at. */
export function choose(ids: readonly string[], before: Selection, id: string, kind: PointedAt): Selection {
  const { selected, chosen } = before;
  if (kind === 'through' && selected !== null) {
    const [from, to] = [ids.indexOf(selected), ids.indexOf(id)];
    return { selected, chosen: new Set(ids.slice(Math.min(from, to), Math.max(from, to) + 1)) };
  }
  if (kind === 'alone' || selected === null) return alone(id);
  if (!chosen.has(id)) return { selected: id, chosen: new Set([...chosen, id]) };
  const left = ids.filter((one) => chosen.has(one) && one !== id);
  return left.length === 0 ? before : allOf(left, selected);
}

/** What is left of a selection when only these are left to choose from; the first where nothing is. */
export function restrict(ids: readonly string[], { selected, chosen }: Selection): Selection {
  const left = ids.filter((id) => chosen.has(id));
  return left.length > 0 ? allOf(left, selected) : alone(ids[0] ?? null);
}

/** What keys held while something is pointed at mean. */
export const pointedAt = (held: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): PointedAt =>
  held.ctrlKey || held.metaKey ? 'besides' : held.shiftKey ? 'through' : 'alone';

export const useSelection = create<Selection>(() => alone(null));
