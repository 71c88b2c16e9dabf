import { isPage, type Change, type Touch } from './change.js';
import { differingFields } from './record-kind.js';
import { kindOf } from './record-kinds.js';

/** What changes touch, one entry for each record, and one for each of its packed columns. */
export function touches(changes: readonly Change[]): Touch[] {
  const found: Touch[] = [];
  const stretches = new Map<string, number[]>();
  for (const change of changes) {
    const { kind, id: of, before, after } = change;
    if (isPage(change)) {
      const { column, page } = change;
      const name = JSON.stringify([of, column]);
      const frames = kindOf(kind).columns[column].differing(page, change.before, change.after);
      stretches.set(name, [...(stretches.get(name) ?? []), ...frames]);
    } else if (before && after) found.push({ of, parts: differingFields(before, after) });
    else found.push({ of, parts: 'all' });
  }
  for (const [name, frames] of stretches) {
    const [of, column] = JSON.parse(name) as [string, string];
    found.push({ of, column, ranges: rangesOf(frames) });
  }
  return found;
}

function rangesOf(positions: readonly number[]): [number, number][] {
  const ranges: [number, number][] = [];
  for (const at of [...positions].sort((a, b) => a - b)) {
    const last = ranges[ranges.length - 1] as [number, number] | undefined;
    if (last && at <= last[1] + 1) last[1] = at;
    else ranges.push([at, at]);
  }
  return ranges;
}
