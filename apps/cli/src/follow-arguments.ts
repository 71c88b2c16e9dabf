import type { Analysis, Below, KeyInterpolation, Shape } from '@lurn/core';
import type { KeyArgument } from './arguments.js';

/** How points are followed, as the command line has it. */
export interface FollowArguments {
  template?: number;
  search?: number;
  shape: Shape;
  channel: Analysis['channel'];
  filter: Analysis['filter'];
  fields: Analysis['fields'];
  below: Below;
  threshold: number;
  gap: number;
  byHand?: KeyInterpolation;
  key: KeyArgument[];
}
