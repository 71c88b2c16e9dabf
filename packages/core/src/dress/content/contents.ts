import { clip } from './clip.js';
import { colour } from './colour.js';
import type { ContentKind } from './content-kind.js';
import { cover } from './cover.js';
import { fill } from './fill.js';
import { picture } from './picture.js';
import { repair } from './repair.js';
import { text } from './text.js';

/** Every kind of thing that a layer may show. */
export const contents = { cover, colour, picture, clip, text, fill, repair };

export type LayerContent = (typeof contents)[keyof typeof contents]['fresh'];
export const contentKinds = Object.keys(contents) as LayerContent['kind'][];

/** What differs by kind of what is shown. */
export const kindOfContent = <C extends LayerContent>({ kind }: C): ContentKind<C> =>
  contents[kind] as unknown as ContentKind<C>;

/** A layer's content of a kind as it begins. */
export const freshContent = <K extends LayerContent['kind']>(kind: K): Extract<LayerContent, { kind: K }> =>
  contents[kind].fresh as Extract<LayerContent, { kind: K }>;
