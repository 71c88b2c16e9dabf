export { warpDeepPlane, warpPlane } from './warp';
export { correlate, halvePlane, packTemplate, quantise } from './correlation';
export { gather, medianResidual, moments, samplePatch, stripSums } from './registration';
export { descend } from './descent';
export { cornerCells, flow } from './flow';
