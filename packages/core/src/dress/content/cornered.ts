import { apply } from '../../geometry/mat3.js';
import { quadOf } from '../../geometry/quad.js';
import type { ContentKind } from './content-kind.js';

/** What all kinds share that lie in a quad of their own: eight numbers. */
export const cornered = <C extends { kind: string; quad: readonly number[] }>(): Pick<
  ContentKind<C>,
  'quad' | 'moved' | 'withQuad'
> => ({
  quad: ({ quad }) => quadOf(quad),
  moved: (content, by) => ({
    ...content,
    quad: quadOf(content.quad).flatMap((corner) => {
      const { x, y } = apply(by, corner.x, corner.y);
      return [x, y];
    }),
  }),
  withQuad: (content, quad) => ({ ...content, quad: quad.flatMap(({ x, y }) => [x, y]) }),
});
