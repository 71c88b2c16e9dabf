import {
  apply,
  cornerKnot,
  flattenSpline,
  invert,
  layerMiddle,
  layerPoseAt,
  matrixAt,
  multiply,
  partsAt,
  keyedMatrix,
  kindOfContent,
  similarityMatrix,
  transformSpline,
  translation,
  type ClosedSpline,
  type LayerContent,
  type Mat3,
  type Point,
  type ShapePart,
  type Quad,
} from '@lurn/core';
import { useRef } from 'react';
import { useDocument, type LayerOfClip } from '../../state/document';
import { useDressing } from '../../state/dressing';
import { changeLayer, keyLayer, removeLayer, setParts, useLayers } from '../../state/layers';
import { usePlayhead } from '../../state/playhead';
import { useWorkspace } from '../../state/workspace';
import { useView } from '../../state/view';
import { usePaneFromFrame } from '../pane-frames';
import { toStage, type PaneGeometry } from '../panes';
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
  const all = useDressing((s) => s.carried);
  const tool = useView((s) => s.tool);
  const selected = useLayers((s) => s.selected);
  const frame = usePlayhead((s) => s.shown);
  const placement = usePaneFromFrame(pane.kind, Math.max(0, frame));
  return (
    <g data-testid={`layer-outlines-${pane.kind}`}>
      {[...layers].reverse().map((layer) => {
        const one = all.find((each) => each.layer.id === layer.id);
        const carriage = 'quad' in layer.content ? one?.carriage : (one?.shapeCarriage ?? one?.carriage);
        if (!carriage || frame < layer.first || frame > layer.last) return null;
        const carried = matrixAt(carriage.frameFromLayer, frame);
        // Outlines that ride by themselves are not put by the layer's keys.
        const frameFromLayer =
          'quad' in layer.content || !one?.shapeCarriage
            ? multiply(carried, keyedMatrix(layer, frame))
            : carried;
        const matrix = placement ? multiply(placement, frameFromLayer) : frameFromLayer;
        const isSelected = layer.id === selected && !layer.locked;
        // With a tool in the hand the picture under them is meant.
        const isHeld = isSelected && tool === 'move';
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
                    // What is seen is what is hit: all of it, where nothing else is in the hand.
                    pointerEvents={tool !== 'move' ? 'none' : isSelected || layer.hidden ? 'stroke' : 'all'}
                    className="cursor-pointer"
                    onPointerDown={() => useLayers.setState({ selected: layer.id })}
                  >
                    <title>{layer.name}</title>
                  </path>
                  {isHeld && layer.content.kind !== 'text' && (
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
            {isHeld && <Middle pane={pane} layer={layer} splines={splines} matrix={matrix} />}
            {isHeld && <Turn pane={pane} layer={layer} splines={splines} matrix={matrix} />}
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
  // Its middle to the picture's, its edges to the frame; with Shift, finer, to nothing.
  const { width, height } = pane.picture;
  const here = apply(matrix, middle.x, middle.y);
  const seen = splines.flatMap(flattenSpline).map(({ x, y }) => apply(matrix, x, y));
  const [xs, ys] = [seen.map(({ x }) => x - here.x), seen.map(({ y }) => y - here.y)];
  const lines = {
    xs: [width / 2, -Math.min(...xs), width - Math.max(...xs)],
    ys: [height / 2, -Math.min(...ys), height - Math.max(...ys)],
  };
  return (
    <Handle
      pane={pane}
      at={here}
      label={`Move ${layer.name}`}
      shape="round"
      colour={colour}
      testId="layer-middle"
      snap={(to) => snapToLines(to, lines, { x: snapWithin / pane.scaleX, y: snapWithin / pane.scaleY })}
      onMove={(to) => {
        const { x, y } = apply(invert(matrix), to.x, to.y);
        put(layer, translation(x - middle.x, y - middle.y));
      }}
      onRemove={() => void removeLayer(layer.id)}
    />
  );
}

/** Stage pixels from a layer's upper edge to the handle that turns and sizes it. */
const armLength = 26;

/** By which a layer is turned and sized about its middle. */
function Turn({ pane, layer, splines, matrix }: MiddleProps) {
  const frame = usePlayhead((s) => s.shown);
  const grasped = useRef<{ layer: LayerOfClip; at: Point } | null>(null);
  const points = splines.flatMap((spline) => flattenSpline(spline));
  if (points.length === 0) return null;
  const middle = layerMiddle(layer, frame);
  const here = apply(matrix, middle.x, middle.y);
  const top = Math.min(...points.map(({ x, y }) => apply(matrix, x, y).y));
  const at = { x: here.x, y: top - armLength / pane.scaleY };
  const [from, to] = [toStage(pane, here), toStage(pane, at)];
  const angle = (p: Point): number => Math.atan2(p.y - here.y, p.x - here.x);
  const length = (p: Point): number => Math.hypot(p.x - here.x, p.y - here.y);
  return (
    <>
      <line
        x1={from.x}
        y1={from.y}
        x2={to.x}
        y2={to.y}
        stroke={colour}
        strokeOpacity={0.6}
        pointerEvents="none"
      />
      <Handle
        pane={pane}
        at={at}
        label={`Turn and size ${layer.name}`}
        shape="hollow"
        colour={colour}
        testId="layer-turn"
        onMove={(next, done) => {
          // All the way from where it was grasped: the handle itself stays above.
          const from = (grasped.current ??= { layer, at });
          const rotation = angle(next) - angle(from.at);
          const scale = Math.max(0.05, length(next) / length(from.at));
          const by = similarityMatrix({ x: 0, y: 0, rotation, scale }, middle);
          put(from.layer, by, { rotation, scale });
          if (done) grasped.current = null;
        }}
      />
    </>
  );
}

/** Puts a layer elsewhere: on the frame shown where it is keyed, else as it was drawn. */
function put(layer: LayerOfClip, by: Mat3, turned = { rotation: 0, scale: 1 }): void {
  const { content, shape, keys } = layer;
  if (keys.length > 0) {
    const pose = layerPoseAt(keys, usePlayhead.getState().frame);
    const rotation = pose.rotation + turned.rotation;
    const scale = pose.scale * turned.scale;
    if (turned.rotation !== 0 || turned.scale !== 1) return keyLayer(layer, { rotation, scale });
    const [c, s] = [pose.scale * Math.cos(pose.rotation), pose.scale * Math.sin(pose.rotation)];
    return keyLayer(layer, { x: pose.x + c * by[2] - s * by[5], y: pose.y + s * by[2] + c * by[5] });
  }
  const changed = (parts: readonly ShapePart[]): ShapePart[] =>
    parts.map((part) => ({ ...part, spline: transformSpline(part.spline, by) }));
  const moved = {
    ...shape,
    parts: changed(shape.parts),
    keys: shape.keys.map((key) => ({ ...key, parts: changed(key.parts) })),
  };
  changeLayer(layer.id, { shape: moved, content: contentBy(content, by, turned) });
}

/** What a layer shows, carried along, as far as it says where it is. */
const contentBy = (
  content: LayerContent,
  by: Mat3,
  turned: { rotation: number; scale: number },
): LayerContent => kindOfContent(content).moved?.(content, by, turned) ?? content;

/** The outlines of a layer; of what has corners the quad that it fills, or what it is held by. */
function splinesOf({ content, shape }: LayerOfClip, frame: number): ClosedSpline[] {
  const { grip, withQuad, quad } = kindOfContent(content);
  const corners = grip?.(content) ?? (withQuad && quad?.(content, null));
  return corners ? [{ knots: corners.map(cornerKnot) }] : partsAt(shape, frame).map(({ spline }) => spline);
}

function putSpline(layer: LayerOfClip, part: number, spline: ClosedSpline): void {
  const { content, shape } = layer;
  const { withQuad } = kindOfContent(content);
  if (!withQuad) {
    const parts = partsAt(shape, usePlayhead.getState().frame);
    return setParts(
      layer,
      parts.map((one, i) => (i === part ? { ...one, spline } : one)),
    );
  }
  // A quad has four corners: none is added, none taken away.
  const { knots } = spline;
  if (knots.length === 4) changeLayer(layer.id, { content: withQuad(content, knots as unknown as Quad) });
}
