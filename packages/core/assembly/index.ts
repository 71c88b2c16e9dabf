export { warpDeepPlane, warpPlane } from './warp';
export { correlate, halvePlane, packTemplate, quantise } from './correlation';
export { blockSums, gather, medianResidual, moments, samplePatch } from './registration';
export { descend } from './descent';
export { cornerCells, flow } from './flow';
