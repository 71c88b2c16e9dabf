import {
  modelOf,
  type Analysis,
  type Below,
  type FollowOptions,
  type KeyInterpolation,
  type Shape,
} from '@lurn/core';
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

/** What points and regions alike are followed by. */
export type Following = Pick<
  FollowArguments,
  'shape' | 'channel' | 'filter' | 'fields' | 'below' | 'threshold' | 'gap'
>;

/** The same as the core takes it. */
export const followingOf = ({
  shape,
  channel,
  filter,
  fields,
  below,
  threshold,
  gap,
}: Following): Omit<FollowOptions, 'template' | 'search' | 'region'> => ({
  model: modelOf(shape),
  analysis: { channel, filter, fields },
  below,
  threshold,
  longestGap: gap,
});
