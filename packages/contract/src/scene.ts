import { Num, Part, partOf, SceneRecord, Whole } from '@lurn/model';

/** The whole picture's motion, found by itself. */
export type SceneView = SceneRecord;
export type ShotView = SceneView['shots'][number];
export type GroupView = ShotView['groups'][number];
export type SpanView = ShotView['bridged'][number];

/** Where the whole picture's motion is looked for. */
export class SceneRequest extends partOf(SceneRecord, ['within', 'without']) {}

/** What is held of a shot. */
export class HoldRequest {
  @Whole(0, 1_000_000, { description: 'The shot, counted from 0' }) shot!: number;
  @Whole(0, 63, { description: 'The group, counted from 0' }) group!: number;

  @Num(-20, 20, { optional: true, description: 'Where the camera travels: any depth, in place of a group' })
  depth?: number;
}

/** A change to what is chosen of a scene. */
export class ScenePatch extends partOf(SceneRecord, ['name', 'used', 'hidden']) {
  @Part(() => HoldRequest, { optional: true }) hold?: HoldRequest;
}
