export * from './export-movie.js';
export * from './packed-samples.js';
export * from './suggest.js';
export * from './tasks.js';
export * from './track-clip.js';
export * from './worker-pool.js';
export { LegWalkers } from './legs.js';
