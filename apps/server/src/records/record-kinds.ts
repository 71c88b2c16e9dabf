import { keptSteadyKind } from '../clips/kept-steady.js';
import { steadyKind } from '../clips/steady-record.js';
import { layerKind } from '../layers/layer-record.js';
import { sceneKind } from '../scenes/scene-record.js';
import { trackKind } from '../tracks/track-record.js';
import type { RecordKind } from './record-kind.js';

/** A kind whose views are taken as they come: each is given none but its own. */
type AnyKind = RecordKind<object>;

/** Every kind of thing that an edit may change. */
export const recordKinds = new Map<string, AnyKind>([
  ['track', trackKind as AnyKind],
  ['scene', sceneKind as AnyKind],
  ['steady', steadyKind as AnyKind],
  ['layer', layerKind as AnyKind],
  ['kept-steady', keptSteadyKind as AnyKind],
]);

export function kindOf(name: string): AnyKind {
  const kind = recordKinds.get(name);
  if (!kind) throw new Error(`There is no kind of record "${name}".`);
  return kind;
}

/** Whether a column's pages are not told with changes, but fetched by whoever wants them. */
export const isFetched = (column: string): boolean =>
  [...recordKinds.values()].some(({ columns }) => columns[column]?.fetched);
