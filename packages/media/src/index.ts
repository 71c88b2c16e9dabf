export * from './media-error.js';
export { checkTools, runTool, startFfmpeg } from './process.js';
export * from './clip.js';
export * from './clip-index.js';
export * from './index-clip.js';
export * from './frame-reader.js';
export * from './still.js';
export * from './movie-writer.js';
