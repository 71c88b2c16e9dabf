export * from './track-clip.js';
export * from './export-movie.js';
export * from './tasks.js';
export * from './worker-pool.js';
