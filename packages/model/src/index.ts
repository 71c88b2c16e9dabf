export {
  describedKinds,
  fieldsOf,
  mostFrames,
  partOf,
  Choice,
  Flag,
  Frame,
  Id,
  Ids,
  Num,
  OneOf,
  Part,
  Parts,
  Pixels,
  Reference,
  References,
  Share,
  Strings,
  Whole,
  Words,
  type Field,
  type Kind,
} from './fields.js';
export * from './json-schema.js';
export * from './layer/carrier.js';
export * from './layer/contents.js';
export * from './layer/layer.js';
export * from './layer/shape.js';
export * from './layer/stroke.js';
export * from './read.js';
export * from './recipe.js';
export * from './references.js';
export * from './region.js';
export * from './scene.js';
export * from './schema-files.js';
export * from './spline.js';
export * from './steady.js';
export * from './track.js';
export * from './track-file.js';
