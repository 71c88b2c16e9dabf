import { ScenePatch, SceneRequest, type SceneView } from '@lurn/contract';
import { motionModels, motionPageLength, unpackFeatures } from '@lurn/core';
import { plainToInstance } from 'class-transformer';
import { validate } from 'class-validator';
import { differingFields, type PackedColumn, type RecordKind } from '../records/record-kind.js';

/** The columns of a scene: the motions of its groups, and its features as they are shown. */
export const motionsColumn = 'motions';
export const featuresColumn = 'features';

/** Pages are found whole: what differs is all of a page. */
const differing = (page: number, one: Buffer | null, other: Buffer | null): number[] =>
  one && other && one.equals(other)
    ? []
    : Array.from({ length: motionPageLength }, (_, i) => page * motionPageLength + i);

const isWithin = (page: number, frames: number): boolean => page * motionPageLength < frames;

const motionPages: PackedColumn = {
  differing,
  isPage: (page, bytes, frames) => isWithin(page, frames) && bytes.length % 16 === 0,
  fetched: true,
};

const featurePages: PackedColumn = {
  differing,
  isPage(page, bytes, frames) {
    try {
      return isWithin(page, frames) && unpackFeatures(bytes).length > 0;
    } catch {
      return false;
    }
  },
  fetched: true,
};

/** The whole picture's motion: one record a clip. */
export const sceneKind: RecordKind<SceneView> = {
  columns: { [motionsColumn]: motionPages, [featuresColumn]: featurePages },
  read: (kept) => kept as SceneView,
  parts: differingFields,
  copy: (view, id, clipId) => ({ ...view, id, clipId }),
  check,
};

const isSpan = (span: unknown, frames: number): boolean => {
  const { first, last } = (span ?? {}) as { first?: unknown; last?: unknown };
  return (
    Number.isInteger(first) &&
    Number.isInteger(last) &&
    0 <= Number(first) &&
    Number(first) <= Number(last) &&
    Number(last) < frames
  );
};

/** What can be chosen of a scene is checked as when it is chosen; of what was found, that it can be shown and held. */
async function check(given: unknown, frames: number): Promise<boolean> {
  const { id, name, used, hidden, within, without, shots } = (given ?? {}) as Partial<SceneView>;
  if (typeof id !== 'string' || !Array.isArray(shots)) return false;
  const patch = plainToInstance(ScenePatch, { name, used, hidden });
  const areas = plainToInstance(SceneRequest, { within, without });
  if ((await validate(patch)).length > 0 || (await validate(areas)).length > 0) return false;
  return shots.every((shot) => {
    if (!isSpan(shot, frames) || !Array.isArray(shot.groups) || shot.groups.length > 64) return false;
    if (!Array.isArray(shot.bridged) || !shot.bridged.every((span) => isSpan(span, frames))) return false;
    if (!Number.isInteger(shot.group) || !(shot.depth === null || Number.isFinite(shot.depth))) return false;
    return shot.groups.every(
      (group) =>
        isSpan(group, frames) &&
        motionModels.includes(group.proposed) &&
        [group.share, group.members, group.slide, group.middle?.x, group.middle?.y].every(Number.isFinite) &&
        motionModels.every((model) => Number.isFinite(group.residuals?.[model])),
    );
  });
}
