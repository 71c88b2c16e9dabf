import type { TrackView } from '@lurn/contract';
import { apply, quadProportion, type Quad, type Sample } from '@lurn/core';
import { useEffect, useRef, useState } from 'react';
import { fullFrame } from '../stage/loupe';
import { useDocument } from '../state/document';
import { isRegion, matrixOf, type RegionTrack } from '../state/regions';
import { drawFlat } from './draw-flat';
import type { TrackSamples } from '../state/track-samples';

/** A little of what is about the box is seen, too. */
const around = 1.25;
const aroundQuad = 1.06;
/** Differences are small: they are shown so many times as strong. */
const strengthen = 3;

/** The key whose look a track has on a frame: the nearest. */
function keyFor(samples: TrackSamples, frame: number): number | null {
  const keys = samples.keys();
  return keys.length === 0
    ? null
    : keys.reduce((a, b) => (Math.abs(b - frame) < Math.abs(a - frame) ? b : a));
}

/** A region's width over its height, as it really is. */
function proportionOf(track: RegionTrack, frame: number): number {
  const { clip } = useDocument.getState();
  const quad = quadAbout(track, frame);
  return clip && quad ? quadProportion(quad, { x: clip.width / 2, y: clip.height / 2 }) : 1;
}

/** Draws what is under a box, turned and sized back as the box has turned and grown. */
function drawPatch(canvas: HTMLCanvasElement, still: HTMLImageElement, at: Sample, across: number): void {
  const c = canvas.getContext('2d', { willReadFrequently: true });
  if (!c) return;
  const zoom = canvas.width / across;
  c.setTransform(1, 0, 0, 1, 0, 0);
  c.fillStyle = '#12181c';
  c.fillRect(0, 0, canvas.width, canvas.height);
  c.imageSmoothingEnabled = zoom < 6;
  c.translate(canvas.width / 2, canvas.height / 2);
  c.scale(zoom / at.scale, zoom / at.scale);
  c.rotate(-at.rotation);
  c.drawImage(still, -at.x, -at.y);
}

/** What is compared of a region on a frame: its quad and a little about it; null where it has no place there. */
function quadAbout(track: RegionTrack, frame: number): Quad | null {
  const matrix = matrixOf(track, frame);
  if (!matrix) return null;
  const { quad } = track.region;
  const middle = {
    x: quad.reduce((sum, { x }) => sum + x / 4, 0),
    y: quad.reduce((sum, { y }) => sum + y / 4, 0),
  };
  const grown = (v: number, m: number): number => m + aroundQuad * (v - m);
  return quad.map(({ x, y }) => apply(matrix, grown(x, middle.x), grown(y, middle.y))) as unknown as Quad;
}

/** The template beside what is under the box on a frame, or the key's quad beside the frame's, and where the two differ. */
export function LookPair({
  track,
  samples,
  frame,
  side = 168,
}: {
  track: TrackView;
  samples: TrackSamples;
  frame: number;
  /** CSS pixels across. */
  side?: number;
}) {
  const [key, here] = [keyFor(samples, frame), samples.get(frame)];
  const template = useRef<HTMLCanvasElement>(null);
  const patch = useRef<HTMLCanvasElement>(null);
  const difference = useRef<HTMLCanvasElement>(null);
  const [shown, setShown] = useState<string>('');
  const [failure, setFailure] = useState<string | null>(null);
  const { clipId } = track;
  const width = around * Math.max(track.template.width, track.template.height);
  const proportion = isRegion(track) && key !== null ? proportionOf(track, key) : 1;
  const height = Math.round(side / Math.max(proportion, 0.25));
  const asked = `${track.id} ${key} ${frame} ${here?.x} ${here?.y}`;
  useEffect(() => {
    if (key === null || !here) return;
    const keyPlace = samples.get(key);
    if (!keyPlace) return;
    let current = true;
    Promise.all([fullFrame(clipId, key), fullFrame(clipId, frame)]).then(
      ([then, now]) => {
        const canvases = [template.current, patch.current, difference.current] as const;
        if (!current || !canvases[0] || !canvases[1] || !canvases[2]) return;
        const quads = isRegion(track) ? [quadAbout(track, key), quadAbout(track, frame)] : [];
        if (quads[0] && quads[1]) {
          drawFlat(canvases[0], then, quads[0]);
          drawFlat(canvases[1], now, quads[1]);
        } else {
          drawPatch(canvases[0], then, keyPlace, width);
          drawPatch(canvases[1], now, here, width);
        }
        drawDifference(canvases[2], canvases[0], canvases[1]);
        setShown(asked);
        setFailure(null);
      },
      () => current && setFailure('These pictures cannot be had: the clip’s original is not there.'),
    );
    return () => {
      current = false;
    };
  }, [asked, clipId, frame, here, key, samples, track, width]);
  if (key === null || !here)
    return (
      <p className="max-w-60 self-center text-base-content/75">
        It has no place on frame {frame} to be compared.
      </p>
    );
  if (failure) return <p className="w-60 self-center text-warning">{failure}</p>;
  const boxed = isRegion(track)
    ? { width: side / aroundQuad, height: height / aroundQuad }
    : { width: (track.template.width / width) * side, height: (track.template.height / width) * side };
  const pictures = [
    { name: isRegion(track) ? `Key, frame ${key}` : `Template, frame ${key}`, canvas: template },
    { name: `Frame ${frame}`, canvas: patch },
    { name: 'Difference', canvas: difference },
  ];
  return (
    <div className="flex shrink-0 flex-wrap gap-2" data-testid="look-pair" data-ready={shown === asked}>
      {pictures.map(({ name, canvas }) => (
        <figure key={name} style={{ width: side }}>
          <div className="relative overflow-hidden rounded-md bg-base-300">
            <canvas
              ref={canvas}
              width={side * devicePixelRatio}
              height={height * devicePixelRatio}
              style={{ width: side, height }}
              aria-label={name}
              role="img"
            />
            <svg className="absolute inset-0" width={side} height={height} aria-hidden>
              <rect
                x={side / 2 - boxed.width / 2}
                y={height / 2 - boxed.height / 2}
                width={boxed.width}
                height={boxed.height}
                fill="none"
                stroke="#fff"
                strokeOpacity={0.55}
              />
            </svg>
          </div>
          <figcaption className="mt-1 truncate text-center text-[11px] text-base-content/75">
            {name}
          </figcaption>
        </figure>
      ))}
    </div>
  );
}

/** Grey where two pictures are alike, once their mean brightness is; brighter and darker where they are not. */
function drawDifference(target: HTMLCanvasElement, one: HTMLCanvasElement, other: HTMLCanvasElement): void {
  const [c, a, b] = [target, one, other].map((canvas) =>
    canvas.getContext('2d', { willReadFrequently: true }),
  );
  if (!c || !a || !b) return;
  const { width, height } = target;
  const [before, now] = [a, b].map((from) => from.getImageData(0, 0, width, height).data);
  const result = c.createImageData(width, height);
  const grey = (data: Uint8ClampedArray, i: number): number =>
    0.2126 * data[i] + 0.7152 * data[i + 1] + 0.0722 * data[i + 2];
  let mean = 0;
  for (let i = 0; i < before.length; i += 4) mean += grey(now, i) - grey(before, i);
  mean /= before.length / 4;
  for (let i = 0; i < before.length; i += 4) {
    const level = 128 + strengthen * (grey(now, i) - grey(before, i) - mean);
    result.data.set([level, level, level, 255], i);
  }
  c.putImageData(result, 0, 0);
}
