export { layChroma, layLuma } from './lay';
export { coverPlane, scalePlane, seamPlane, shrinkPlane } from './taps';
export { warpDeepPlane, warpPlane } from './warp';
export { correlate, halvePlane, packTemplate, quantise } from './correlation';
export { samplePatch, sampleRuns } from './sampling';
export { blockSums, gather, medianResidual, moments } from './registration';
export { descend } from './descent';
export { cornerCells, flow } from './flow';
export { windowTexture } from './windows';
