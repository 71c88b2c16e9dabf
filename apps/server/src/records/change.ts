/** What an edit did to a record: small enough to be told whole. */
export interface RecordChange {
  kind: string;
  id: string;
  before: object | null;
  after: object | null;
}

/** What an edit did to a page of a record's packed data; null for an empty page. */
export interface PageChange {
  kind: string;
  id: string;
  column: string;
  page: number;
  before: Buffer | null;
  after: Buffer | null;
}

export type Change = RecordChange | PageChange;

export const isPage = (change: Change): change is PageChange => 'column' in change;

/** The same changes the other way round, last first. */
export const reversed = (changes: readonly RecordChange[]): RecordChange[] =>
  changes.map((change) => ({ ...change, before: change.after, after: change.before })).reverse();

/** What an edit touches of a record: all of it, some parts, or stretches of packed data, both ends included. */
export interface Touch {
  of: string;
  parts?: 'all' | string[];
  column?: string;
  ranges?: [first: number, last: number][];
}

/** Whether two edits have something in common. */
export function overlap(a: readonly Touch[], b: readonly Touch[]): boolean {
  const known = new Map<string, Touch[]>();
  for (const touch of b) known.set(touch.of, [...(known.get(touch.of) ?? []), touch]);
  return a.some((one) => known.get(one.of)?.some((other) => meets(one, other)) ?? false);
}

function meets(one: Touch, other: Touch): boolean {
  if (one.parts === 'all' || other.parts === 'all') return true;
  if (one.parts && other.parts) return one.parts.some((part) => other.parts?.includes(part));
  if (one.column === undefined || one.column !== other.column) return false;
  return (one.ranges ?? []).some(([first, last]) =>
    (other.ranges ?? []).some(([from, to]) => first <= to && from <= last),
  );
}
