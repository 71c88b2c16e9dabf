export { warpPlane } from './warp';
