import type { Point } from '../geometry/mat3.js';
import { plainAnalysis, type Analysis } from './image/analysis.js';
import type { RegionOptions } from './region/region.js';
import { warpModels, type WarpModel } from '../geometry/warp-model.js';

export interface Size {
  width: number;
  height: number;
}

/** Words that people choose a warp model by, on screen, in the API, by command line and in what is stored. */
export const shapes = ['shift', 'rotation', 'similarity', 'affine', 'perspective'] as const;
export type Shape = (typeof shapes)[number];

export const modelOf = (shape: Shape): WarpModel => warpModels[shapes.indexOf(shape)];
export const shapeOf = (model: WarpModel): Shape => shapes[warpModels.indexOf(model)];

export interface PointTrackerOptions {
  /** The box that is looked for, full size in clip pixels. */
  template: Size;
  /** The box that is looked in, full size; the template stays inside it. */
  search: Size;
  model: WarpModel;
  analysis: Analysis;
  /** Below this confidence the sample is `lost`. */
  threshold: number;
}

export const defaultPointOptions: PointTrackerOptions = {
  template: { width: 41, height: 41 },
  search: { width: 161, height: 161 },
  model: 'similarity',
  analysis: plainAnalysis,
  threshold: 0.5,
};

/** What happens where a track falls below its threshold: stop; carry on and mark; bridge the gap if it ends soon. */
export const belowChoices = ['stop', 'mark', 'bridge'] as const;
export type Below = (typeof belowChoices)[number];

/** From this key on another feature is followed, this far from the wanted point; the path stays the point's. */
export interface Offset extends Point {
  frame: number;
}

export interface FollowOptions extends PointTrackerOptions {
  below: Below;
  /** The most frames that are bridged. */
  longestGap: number;
  /** The flat thing that is followed whole, in place of a box. */
  region?: RegionOptions;
}

export const defaultFollowOptions: FollowOptions = { ...defaultPointOptions, below: 'stop', longestGap: 25 };
