import { multiply, type Mat3 } from '../../geometry/mat3.js';
import type { PixelBox } from '../../render/warp-picture.js';
import type { OperationContent } from '../operation.js';
import type { Placed } from './content-kind.js';

/** From the unit square to a box. */
const boxMatrix = ({ left, top, right, bottom }: PixelBox): Mat3 => [
  ...([right - left, 0, left, 0, bottom - top, top] as const),
  ...([0, 0, 1] as const),
];

/** A picture that was made of the clip's own frames, laid where it was made. */
export const patchOperation = (
  { follow }: { follow: boolean },
  { matrix, box, patch }: Placed,
): OperationContent | null =>
  box && patch
    ? { kind: 'picture', asset: patch, frameFromPicture: multiply(matrix, boxMatrix(box)), follow }
    : null;
