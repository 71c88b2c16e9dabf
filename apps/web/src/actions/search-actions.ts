import type { Action } from './action';

/** How well an action answers what was typed, 0 to 1: all words are in it somewhere, those in its name count more. */
function score({ label, group, wish = '' }: Action, words: readonly string[], search: string): number {
  const name = label.toLowerCase();
  const all = `${name} ${group} ${wish}`.toLowerCase();
  if (!words.every((word) => all.includes(word))) return 0;
  if (name === search) return 1;
  const named = words.filter((word) => name.includes(word)).length / words.length;
  return (name.startsWith(search) ? 0.5 : 0.2) + 0.4 * named;
}

/** The actions that answer what was typed, the best first, those that are alike in the order they are listed in. */
export function searchActions(actions: readonly Action[], typed: string): Action[] {
  const search = typed.trim().toLowerCase();
  const words = search.split(/\s+/);
  return actions
    .map((action) => ({ action, worth: score(action, words, search) }))
    .filter(({ worth }) => worth > 0)
    .sort((a, b) => b.worth - a.worth)
    .map(({ action }) => action);
}
