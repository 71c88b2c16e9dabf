import type { Point } from '@lurn/core';
import type { MouseEvent } from 'react';

/** Where the pointer is, from the stage's top-left corner. */
export function stagePoint(event: MouseEvent<SVGElement>): Point {
  const { left, top } = (event.currentTarget.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
  return { x: event.clientX - left, y: event.clientY - top };
}
