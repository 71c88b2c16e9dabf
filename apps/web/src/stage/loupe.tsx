import type { PlaceScoreView } from '@lurn/contract';
import { useEffect, useRef, useState } from 'react';
import { api } from '../api/client';

const size = 176;

const stills = new Map<string, Promise<HTMLImageElement>>();

/** One frame at full size; the last few are kept. */
export function fullFrame(clipId: string, frame: number): Promise<HTMLImageElement> {
  const url = `/api/clips/${clipId}/frames/${frame}`;
  let still = stills.get(url);
  if (!still) {
    const image = new Image();
    image.src = url;
    still = image.decode().then(() => image);
    still.catch(() => stills.delete(url));
    stills.set(url, still);
    if (stills.size > 6) stills.delete(stills.keys().next().value as string);
  }
  return still;
}

interface LoupeProps {
  clipId: string;
  frame: number;
  /** Clip pixels. */
  x: number;
  y: number;
  /** Where the pointer is on the stage, in CSS pixels; the loupe keeps clear of it. */
  pointer: { x: number; y: number };
  stage: { width: number; height: number };
  /** The template box to show inside, clip pixels. */
  box: { width: number; height: number };
  colour: string;
}

/** The original's own pixels around a point, magnified, with the box and a crosshair. */
export function Loupe({ clipId, frame, x, y, pointer, stage, box, colour }: LoupeProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [loaded, setLoaded] = useState<{ frame: number; image: HTMLImageElement } | null>(null);
  const image = loaded?.frame === frame ? loaded.image : null;

  // The whole box is seen, with a little around it.
  const magnification = Math.min(Math.max((0.8 * size) / Math.max(box.width, box.height), 2), 8);

  useEffect(() => {
    let current = true;
    fullFrame(clipId, frame).then(
      (still) => current && setLoaded({ frame, image: still }),
      () => undefined,
    );
    return () => {
      current = false;
    };
  }, [clipId, frame]);

  useEffect(() => {
    const c = canvas.current?.getContext('2d');
    if (!c) return;
    const ratio = window.devicePixelRatio;
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.fillStyle = '#12181c';
    c.fillRect(0, 0, size, size);
    if (!image) return;
    c.imageSmoothingEnabled = false;
    c.drawImage(
      image,
      size / 2 - x * magnification,
      size / 2 - y * magnification,
      image.width * magnification,
      image.height * magnification,
    );
  }, [image, x, y, magnification]);

  const left = pointer.x + size + 40 < stage.width ? pointer.x + 28 : pointer.x - size - 28;
  const top = Math.min(Math.max(pointer.y - size / 2, 6), Math.max(6, stage.height - size - 30));
  const w = box.width * magnification;
  const h = box.height * magnification;
  return (
    <div
      className="pointer-events-none absolute z-20"
      style={{ left, top }}
      data-testid="loupe"
      data-ready={image !== null}
    >
      <div
        className="relative overflow-hidden rounded-full border-2 border-base-content/70 shadow-xl"
        style={{ width: size, height: size }}
      >
        <canvas
          ref={canvas}
          width={size * window.devicePixelRatio}
          height={size * window.devicePixelRatio}
          style={{ width: size, height: size }}
        />
        <svg className="absolute inset-0" width={size} height={size} aria-hidden>
          <rect
            x={(size - w) / 2}
            y={(size - h) / 2}
            width={w}
            height={h}
            fill="none"
            stroke={colour}
            strokeWidth={1.5}
          />
          <path
            d={`M${size / 2} 0V${size / 2 - 7}M${size / 2} ${size / 2 + 7}V${size}M0 ${size / 2}H${size / 2 - 7}M${size / 2 + 7} ${size / 2}H${size}`}
            stroke="#fff"
            strokeOpacity={0.75}
          />
          <circle cx={size / 2} cy={size / 2} r={1.6} fill={colour} />
        </svg>
        {!image && <span className="loading loading-spinner loading-sm absolute inset-0 m-auto" />}
      </div>
      <p className="mt-1 rounded bg-base-300/90 px-1.5 py-0.5 text-center font-mono text-[11px]">
        {x.toFixed(1)}, {y.toFixed(1)}
        <Score clipId={clipId} frame={frame} x={x} y={y} />
      </p>
    </div>
  );
}

const restBeforeAsking = 60;

/** How well the place under the pointer will be followed, in a word or two. */
function Score({ clipId, frame, x, y }: Pick<LoupeProps, 'clipId' | 'frame' | 'x' | 'y'>) {
  const [scored, setScored] = useState<{ score: PlaceScoreView; x: number; y: number } | null>(null);
  useEffect(() => {
    let current = true;
    const timer = setTimeout(() => {
      api.score(clipId, frame, x, y).then(
        (score) => current && setScored({ score, x, y }),
        () => current && setScored(null),
      );
    }, restBeforeAsking);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [clipId, frame, x, y]);
  if (!scored) return null;
  const { score } = scored;
  const stale = scored.x !== x || scored.y !== y;
  const caveat = caveatOf(score);
  const tone = score.score < poor ? 'text-error' : caveat ? 'text-warning' : 'text-success';
  return (
    <span
      className={`block ${tone} ${stale ? 'opacity-50' : ''}`}
      data-testid="place-score"
      data-score={score.score.toFixed(3)}
      data-x={scored.x}
      data-y={scored.y}
    >
      {Math.round(100 * score.score)} % · {caveat ?? (score.ownWay ? 'goes its own way' : 'holds well')}
    </span>
  );
}

/** Scores from which a place holds well, and below which it hardly holds. */
const good = 0.7;
const poor = 0.25;
/** Likeness of another place near by from which the one may be taken for the other. */
const alike = 0.8;
const unseenInWords = { turn: 'turns unseen', growth: 'grows unseen' };

/** What speaks against a place. */
function caveatOf({ score, slide, double, tried, unseen }: PlaceScoreView): string | null {
  if (slide !== null) return 'can slide';
  if (tried !== null && tried < good) return 'soon lost';
  if (score < good) return 'little to hold';
  if (double > alike) return 'has a double';
  return unseen && unseenInWords[unseen];
}
