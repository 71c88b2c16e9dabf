import type { SceneView } from '@lurn/contract';
import { motionPageLength, unpackFeatures } from '@lurn/core';
import { isWithinClip, SceneRecord } from '@lurn/model';
import type { PackedColumn, RecordKind } from '../records/record-kind.js';

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
  description: SceneRecord,
  columns: { [motionsColumn]: motionPages, [featuresColumn]: featurePages },
  read: (kept) => kept as SceneView,
  fault: (scene, frames) => (isWithinClip(scene, frames) ? null : `The clip has ${frames} frames.`),
};
