export * from './projects.js';
export * from './clips.js';
export * from './tracks.js';
export * from './steady.js';
export * from './jobs.js';
export * from './events.js';
