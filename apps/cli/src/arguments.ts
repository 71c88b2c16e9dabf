import {
  cornerKnot,
  mostReadout,
  rectangleSpline,
  type ClosedSpline,
  type PictureSize,
  type RollingShutter,
} from '@lurn/core';
import { UsageError } from './usage-error.js';

/** A point asked for on the command line: `X,Y@FRAME` or `X,Y@FRAME=NAME`, clip pixels with the corner as origin. */
export interface PointArgument {
  x: number;
  y: number;
  frame: number;
  name: string | null;
}

export function parsePoint(text: string): PointArgument {
  const match = /^(-?[\d.]+),(-?[\d.]+)@(\d+)(?:=(.+))?$/.exec(text);
  const [x, y] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || !Number.isFinite(x) || !Number.isFinite(y)) {
    throw new UsageError(
      `"${text}" is not a point; write it as X,Y@FRAME or X,Y@FRAME=NAME, like 960,540@0=plate.`,
    );
  }
  return { x, y, frame: Number(match[3]), name: match[4] ?? null };
}

/** A further hand-placed key: `NAME@FRAME=X,Y`, or with the box elsewhere from there on, `NAME@FRAME=X,Y/X,Y`. */
export interface KeyArgument {
  name: string;
  frame: number;
  x: number;
  y: number;
  /** What is followed, less the point. */
  aside: { x: number; y: number };
}

export function parseKey(text: string): KeyArgument {
  const place = '(-?[\\d.]+),(-?[\\d.]+)';
  const match = new RegExp(`^(.+)@(\\d+)=${place}(?:/${place})?$`).exec(text);
  const [x, y, atX = x, atY = y] = (match?.slice(3).filter((part) => part !== undefined) ?? [NaN]).map(
    Number,
  );
  if (!match || ![x, y, atX, atY].every(Number.isFinite)) {
    throw new UsageError(
      `"${text}" is not a key; write it as NAME@FRAME=X,Y, like plate@120=964.5,541, or with another place to follow from there on, like plate@120=964.5,541/1010,520.`,
    );
  }
  return { name: match[1], frame: Number(match[2]), x, y, aside: { x: atX - x, y: atY - y } };
}

/** A rectangle of the picture, `X,Y,WIDTH,HEIGHT`, or a polygon, `X,Y X,Y X,Y …`. */
export function parseArea(text: string): ClosedSpline {
  const corners = text
    .trim()
    .split(/\s+/)
    .map((corner) => corner.split(',').map(Number));
  if (corners.length > 2 && corners.every((corner) => corner.length === 2 && corner.every(Number.isFinite)))
    return { knots: corners.map(([x, y]) => cornerKnot({ x, y })) };
  const numbers = text.split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
  const [left, top, width, height] = numbers;
  if (numbers.length !== 4 || !numbers.every(Number.isFinite) || width <= 0 || height <= 0)
    throw new UsageError(
      `"${text}" is not an area; write X,Y,WIDTH,HEIGHT in pixels, like 400,200,640,360, or three corners and more, like '400,200 1040,200 700,560'.`,
    );
  return rectangleSpline(left, top, left + width, top + height);
}

/** Corners, `X,Y;X,Y;X,Y;…`; three at least. */
function parseCorners(text: string): PlaceArgument[] | null {
  const corners = text.split(';').map((corner) => corner.split(','));
  const sound =
    corners.length >= 3 && corners.every((c) => c.length === 2 && c.every((n) => n.trim() !== ''));
  const places = corners.map(([x, y]) => ({ x: Number(x), y: Number(y) }));
  return sound && places.every(({ x, y }) => Number.isFinite(x) && Number.isFinite(y)) ? places : null;
}

interface PlaceArgument {
  x: number;
  y: number;
}

const splineThrough = (places: readonly PlaceArgument[]): ClosedSpline => ({ knots: places.map(cornerKnot) });

/** A flat area to follow whole: `NAME=X,Y;X,Y;…@FRAME`. Given again with the same name and frame it has several outlines. */
export interface RegionArgument {
  name: string;
  frame: number;
  spline: ClosedSpline;
}

export function parseRegion(text: string): RegionArgument {
  const match = /^([^=]+)=(.+)@(\d+)$/.exec(text);
  const places = match && parseCorners(match[2]);
  if (!match || !places)
    throw new UsageError(
      `"${text}" is not a region; write it as NAME=X,Y;X,Y;X,Y@FRAME with three corners or more, like 'board=400,300;900,310;890,700;410,690@0'.`,
    );
  return { name: match[1], frame: Number(match[3]), spline: splineThrough(places) };
}

/** What never counts: `X,Y;X,Y;…@FRAME`, or riding on a track, `X,Y;X,Y;…@FRAME=TRACK`. */
export interface HoldOutArgument {
  frame: number;
  spline: ClosedSpline;
  track: string | null;
}

export function parseHoldOut(text: string): HoldOutArgument {
  const match = /^(.+)@(\d+)(?:=(.+))?$/.exec(text);
  const places = match && parseCorners(match[1]);
  if (!match || !places)
    throw new UsageError(
      `"${text}" is no hold-out; write it as X,Y;X,Y;X,Y@FRAME or X,Y;X,Y;X,Y@FRAME=TRACK with three corners or more.`,
    );
  return { frame: Number(match[2]), spline: splineThrough(places), track: match[3] ?? null };
}

/** Where a region's four corners lie on a frame: `NAME=X,Y;X,Y;X,Y;X,Y@FRAME`, upper left first, clockwise. */
export interface QuadArgument {
  name: string;
  frame: number;
  corners: [PlaceArgument, PlaceArgument, PlaceArgument, PlaceArgument];
}

export function parseQuad(text: string): QuadArgument {
  const match = /^([^=]+)=(.+)@(\d+)$/.exec(text);
  const places = match && parseCorners(match[2]);
  if (!match || places?.length !== 4)
    throw new UsageError(
      `"${text}" is no quad; write it as NAME=X,Y;X,Y;X,Y;X,Y@FRAME: upper left and right, lower right and left.`,
    );
  const [a, b, c, d] = places;
  return { name: match[1], frame: Number(match[3]), corners: [a, b, c, d] };
}

export interface FrameRange {
  first: number;
  last: number;
}

/** `A:B`, first and last frame, both included. */
export function parseRange(text: string): FrameRange {
  const match = /^(\d+):(\d+)$/.exec(text);
  const [first, last] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || last < first)
    throw new UsageError(`"${text}" is not a range; write first and last frame, like 0:299.`);
  return { first, last };
}

export function parseNumber(what: string, least: number, most: number) {
  return (text: string): number => {
    const value = Number(text);
    if (text.trim() === '' || !(value >= least && value <= most)) {
      throw new UsageError(`${what} must be a number from ${least} to ${most}, not "${text}".`);
    }
    return value;
  };
}

export function parseFrame(text: string): number {
  if (!/^\d+$/.test(text)) throw new UsageError(`"${text}" is not a frame number; frames count from 0.`);
  return Number(text);
}

const channelNames = ['x', 'y', 'rotation', 'scale'] as const;

export function parseChannels(text: string): Record<(typeof channelNames)[number], boolean> {
  const wanted = text.split(',').map((name) => name.trim());
  for (const name of wanted) {
    if (!channelNames.some((known) => known === name)) {
      throw new UsageError(`"${name}" is no channel; choose among ${channelNames.join(', ')}.`);
    }
  }
  return {
    x: wanted.includes('x'),
    y: wanted.includes('y'),
    rotation: wanted.includes('rotation'),
    scale: wanted.includes('scale'),
  };
}

const strengthNames = ['x', 'y', 'rotation', 'scale', 'perspective'] as const;

/** `x=1,rotation=0.5`: how much of each channel is taken out, 0 to 1. */
export function parseStrength(text: string): Partial<Record<(typeof strengthNames)[number], number>> {
  return Object.fromEntries(
    text.split(',').map((part) => {
      const [name, value = '', ...rest] = part.split('=').map((p) => p.trim());
      const share = value === '' ? NaN : Number(value);
      if (!strengthNames.some((known) => known === name) || !(share >= 0 && share <= 1) || rest.length > 0)
        throw new UsageError(
          `"${part}" is no strength; write it as x=1,rotation=0.5, from 0 to 1, with names among ${strengthNames.join(', ')}.`,
        );
      return [name, share];
    }),
  );
}

/** `auto`, `off`, or the share of a frame over which it was read. */
export function parseRollingShutter(text: string): RollingShutter {
  if (text === 'auto' || text === 'off') return { mode: text, share: 0 };
  const share = text.trim() === '' ? NaN : Number(text);
  if (!(Math.abs(share) <= mostReadout))
    throw new UsageError(
      `The rolling shutter must be "auto", "off" or a share of a frame from ${-mostReadout} to ${mostReadout}, not "${text}".`,
    );
  return { mode: 'share', share };
}

/** `WxH`, even numbers of pixels. */
export function parseSize(text: string): PictureSize {
  const match = /^(\d+)[x×](\d+)$/.exec(text);
  const [width, height] = [Number(match?.[1]), Number(match?.[2])];
  const isSize = (n: number): boolean => n >= 16 && n <= 16384 && n % 2 === 0;
  if (!isSize(width) || !isSize(height))
    throw new UsageError(
      `"${text}" is not a size; write even numbers of pixels from 16 to 16384, like 1080x1920.`,
    );
  return { width, height };
}

export type ZoomArgument = 'fit' | 'varying' | 'none' | number;

export function parseZoom(text: string): ZoomArgument {
  if (text === 'fit' || text === 'varying' || text === 'none') return text;
  const zoom = Number(text);
  if (!(zoom >= 0.1 && zoom <= 20))
    throw new UsageError(`Zoom must be "fit", "varying", "none" or a factor from 0.1 to 20, not "${text}".`);
  return zoom;
}
