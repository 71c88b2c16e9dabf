// What TypeScript and the kernels both go by. The kernels are compiled from it too, so it holds plain numbers only.

/** Rows of the steepest-descent images before those of motion: brightness and contrast. */
export const exposureRows = 2;
/** Pixels side by side that are taken together where a box is not taken whole. */
export const runLength = 8;
/** The least spread of residuals, in grey levels: what rounding and interpolation leave. */
export const leastSpread = 1.5;
/** Cauchy weights make residuals look so much smaller in variance, and the template's grain counts too. */
export const deflation = 4;

// Warp models by their number, as `warpModels` in geometry/warp-model.ts lists them.
export const euclideanModel = 1;
export const similarityModel = 2;
export const homographyModel = 4;

// How a registration has ended.
export const nowhere = 0;
export const settled = 1;
export const unsettled = 2;

// A fit, in f64: nine of the matrix, and where each of these lies.
export const fitGain = 9;
export const fitBias = 10;
export const fitResidual = 11;
export const fitVariance = 12;
export const fitGathered = 13;
export const fitScore = 14;
export const fitTrusted = 15;
export const fitWeight = 16;
export const fitLength = 17;

// A set of pixels, in f64.
export const pixelSetDescent = 0;
export const pixelSetLevel = 1;
export const pixelSetCount = 2;
export const pixelSetWidth = 3;
export const pixelSetHeight = 4;
export const pixelSetSpacing = 5;
export const pixelSetRuns = 6;
export const pixelSetMean = 7;
export const pixelSetReach = 8;
export const pixelSetAspect = 9;
export const pixelSetGrain = 10;
export const pixelSetDamping = 11;
export const pixelSetLength = 12;
