import {
  apply,
  cornerKnot,
  invert,
  matrixAt,
  multiply,
  partsAt,
  rectangleSpline,
  transformSpline,
  translation,
  type ClosedSpline,
  type Mat3,
  type ShapePart,
} from '@lurn/core';
import { useDocument, type LayerOfClip } from '../../state/document';
import { useDressing } from '../../state/dressing';
import { changeLayer, removeLayer, setParts, useLayers } from '../../state/layers';
import { usePlayhead } from '../../state/playhead';
import { useWorkspace } from '../../state/workspace';
import type { PaneGeometry } from '../panes';
import { snapToLines } from '../snap';
import { Handle } from './handle';
import { SplineHandles, splinePath } from './spline';

const colour = '#b9a3f5';

/** Where layers are seen; the one that is selected has handles, on any frame. */
export function LayerOutlines({ pane }: { pane: PaneGeometry }) {
  const step = useWorkspace((s) => s.step);
  if (step !== 'dress') return null;
  return <Outlines pane={pane} />;
}

function Outlines({ pane }: { pane: PaneGeometry }) {
  const layers = useDocument((s) => s.layers);
  const carried = useDressing((s) => s.carried);
  const selected = useLayers((s) => s.selected);
  const frame = usePlayhead((s) => s.shown);
  const placements = useDocument((s) => (pane.kind === 'steadied' ? s.result?.placements : undefined));
  const placement =
    placements && 9 * frame < placements.length ? matrixAt(placements, Math.max(frame, 0)) : null;
  return (
    <g data-testid={`layer-outlines-${pane.kind}`}>
      {layers.map((layer) => {
        const one = carried.find((each) => each.layer.id === layer.id);
        const carriage = 'quad' in layer.content ? one?.carriage : (one?.shapeCarriage ?? one?.carriage);
        if (!carriage || frame < layer.first || frame > layer.last) return null;
        const frameFromLayer = matrixAt(carriage.frameFromLayer, frame);
        const matrix = placement ? multiply(placement, frameFromLayer) : frameFromLayer;
        const isSelected = layer.id === selected && !layer.locked;
        const splines = splinesOf(layer, frame);
        return (
          <g key={layer.id}>
            {splines.map((spline, part) => {
              const shown = transformSpline(spline, matrix);
              return (
                <g key={part}>
                  <path
                    d={splinePath(pane, shown)}
                    fill="none"
                    stroke={colour}
                    strokeOpacity={isSelected ? 1 : 0.45}
                    strokeWidth={isSelected ? 2 : 1.25}
                    strokeDasharray={isSelected ? undefined : '4 3'}
                    pointerEvents="stroke"
                    className="cursor-pointer"
                    onPointerDown={(event) => {
                      event.stopPropagation();
                      useLayers.setState({ selected: layer.id });
                    }}
                  >
                    <title>{layer.name}</title>
                  </path>
                  {isSelected && layer.content.kind !== 'text' && (
                    <SplineHandles
                      pane={pane}
                      spline={shown}
                      colour={colour}
                      onChange={(next) => putSpline(layer, part, transformSpline(next, invert(matrix)))}
                    />
                  )}
                </g>
              );
            })}
            {isSelected && <Middle pane={pane} layer={layer} splines={splines} matrix={matrix} />}
          </g>
        );
      })}
    </g>
  );
}

interface MiddleProps {
  pane: PaneGeometry;
  layer: LayerOfClip;
  splines: readonly ClosedSpline[];
  matrix: Mat3;
}

/** Stage pixels. */
const snapWithin = 6;

/** The middle of a layer, by which all of it is moved. */
function Middle({ pane, layer, splines, matrix }: MiddleProps) {
  const knots = splines.flatMap((spline) => spline.knots);
  if (knots.length === 0) return null;
  const middle = {
    x: knots.reduce((sum, knot) => sum + knot.x, 0) / knots.length,
    y: knots.reduce((sum, knot) => sum + knot.y, 0) / knots.length,
  };
  // To the picture's middle; with Shift, finer, to nothing.
  const { width, height } = pane.picture;
  const lines = { xs: [0, width / 2, width], ys: [0, height / 2, height] };
  return (
    <Handle
      pane={pane}
      at={apply(matrix, middle.x, middle.y)}
      label={`Move ${layer.name}`}
      shape="round"
      colour={colour}
      testId="layer-middle"
      snap={(to) => snapToLines(to, lines, { x: snapWithin / pane.scaleX, y: snapWithin / pane.scaleY })}
      onMove={(to) => {
        const { x, y } = apply(invert(matrix), to.x, to.y);
        changeLayer(layer.id, shiftedBy(layer, x - middle.x, y - middle.y));
      }}
      onRemove={() => void removeLayer(layer.id)}
    />
  );
}

/** A layer moved by so many pixels of the frame that it was drawn on. */
function shiftedBy({ content, shape }: LayerOfClip, dx: number, dy: number): Partial<LayerOfClip> {
  const shifted = (parts: readonly ShapePart[]): ShapePart[] =>
    parts.map((part) => ({ ...part, spline: transformSpline(part.spline, translation(dx, dy)) }));
  const keys = shape.keys.map((key) => ({ ...key, parts: shifted(key.parts) }));
  const moved = { shape: { ...shape, parts: shifted(shape.parts), keys } };
  if (content.kind === 'text')
    return { ...moved, content: { ...content, x: content.x + dx, y: content.y + dy } };
  if (!('quad' in content)) return moved;
  return { ...moved, content: { ...content, quad: content.quad.map((v, i) => v + (i % 2 === 0 ? dx : dy)) } };
}

/** The outlines of a layer; of a picture without one the quad that it fills. */
function splinesOf({ content, shape }: LayerOfClip, frame: number): ClosedSpline[] {
  if (content.kind === 'text') {
    // A small square about its middle to hold it by.
    const { x, y, size } = content;
    return [rectangleSpline(x - size / 2, y - size / 2, x + size / 2, y + size / 2)];
  }
  if (!('quad' in content)) return partsAt(shape, frame).map(({ spline }) => spline);
  const { quad } = content;
  return [{ knots: [0, 1, 2, 3].map((i) => cornerKnot({ x: quad[2 * i], y: quad[2 * i + 1] })) }];
}

function putSpline(layer: LayerOfClip, part: number, spline: ClosedSpline): void {
  const { content, shape } = layer;
  if (!('quad' in content)) {
    const parts = partsAt(shape, usePlayhead.getState().frame);
    return setParts(
      layer,
      parts.map((one, i) => (i === part ? { ...one, spline } : one)),
    );
  }
  // A quad has four corners: none is added, none taken away.
  const { knots } = spline;
  if (knots.length === 4)
    changeLayer(layer.id, { content: { ...content, quad: knots.flatMap(({ x, y }) => [x, y]) } });
}
