export * from './tasks.js';
export * from './packed-samples.js';
export * from './track-clip.js';
export * from './suggest.js';
export * from './export-movie.js';
export * from './worker-pool.js';
