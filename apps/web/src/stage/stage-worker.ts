import {
  evenTimes,
  framingMatrix,
  identity,
  matrixAt,
  noFraming,
  type Analysis,
  type Mat3,
  type Placing,
} from '@lurn/core';
import { frameWhilePlaying } from '../state/clip-times';
import kernelsUrl from '@lurn/core/kernels.wasm?url';
import { FrameSource, type Picture } from './frame-source';
import { fillReach, isMade, OutputMaker } from './output-maker';
import { Painter, type Pane } from './painter';
import type { PaneGeometry } from './panes';
import { riding, type Ride } from './ride';
import type { OutputLook, StageNews, StageOrder } from './stage-messages';

// The stage's own thread: decodes the proxy and draws both pictures, so that the page's thread never waits.

let source: FrameSource | null = null;
let painter: Painter | null = null;
let canvas: OffscreenCanvas | null = null;
let clip: { width: number; height: number } | null = null;
let ratio = 1;
let panes: PaneGeometry[] = [];
let background: [number, number, number] = [0, 0, 0];
let placing: Placing | null = null;
let analysis: Analysis | null = null;
let look: OutputLook | null = null;
let hatched = true;
let compared: Extract<StageOrder, { type: 'compare' }>['as'] = 'itself';
/** Makes what the rasteriser does not; there as soon as its kernels have come. */
let maker: OutputMaker | null = null;
let picture: Picture | null = null;
/** Frames about the one at rest, which fill its edges. */
const fillers = new Map<number, Picture>();
/** What the output was made of last. */
let madeOf: { picture: Picture; placing: Placing; look: OutputLook } | null = null;
let times = evenTimes(1, 25);
let wanted = 0;
let wantedAt = 0;
let shown = -1;
let busy = false;
let playing: (Extract<StageOrder, { type: 'play' }> & { startedAt: number }) | null = null;
let ride: Ride | null = null;
/** Canvas size at full resolution. */
let full = { width: 1, height: 1 };

const tell = (news: StageNews): void => self.postMessage(news);

function draw(frame: number): void {
  if (!painter || !canvas || frame < 0) return;
  const isPlaced = placing !== null && 9 * frame < placing.placements.length;
  const placement = placing && isPlaced ? matrixAt(placing.placements, frame) : identity;
  const byRows = placing?.rows && isPlaced ? { rows: placing.rows, frame } : null;
  const made = makeOutput(frame);
  const beyond =
    look?.edge === 'transparent' ? 'squares' : look?.edge === 'black' && hatched ? 'hatching' : 'black';
  const scale = ratio * (playing?.size ?? 1);
  const drawn = panes.map((fixed): Pane => {
    const pane = riding(fixed, ride, frame);
    return {
      x: Math.round(pane.x * scale),
      y: Math.round(pane.y * scale),
      width: Math.round(pane.width * scale),
      height: Math.round(pane.height * scale),
      scaleX: pane.scaleX * scale,
      scaleY: pane.scaleY * scale,
      shiftX: pane.shiftX * scale,
      shiftY: pane.shiftY * scale,
      outputFromFrame: pane.kind === 'source' ? identity : compared === 'source' ? unsteadied() : placement,
      byRows: pane.kind === 'source' || compared === 'source' ? null : byRows,
      picture: pane.picture,
      beyond: pane.kind === 'source' ? 'nothing' : beyond,
      made: pane.kind === 'steadied' && made && compared !== 'source',
      against: pane.kind === 'steadied' && compared === 'difference' ? unsteadied() : null,
      analysis: pane.kind === 'source' ? analysis : null,
    };
  });
  painter.draw(drawn, background);
}

/** Where the source lies in the output at zoom 1, without anything taken out. */
function unsteadied(): Mat3 {
  if (!look || !clip) return identity;
  return framingMatrix(noFraming, { ...clip, output: look.size, window: look.window });
}

/** Makes the picture of the output where the rasteriser does not do; whether there is one. */
function makeOutput(frame: number): boolean {
  if (!painter || !maker || !picture || !placing || !look || !isMade(look)) return false;
  if (9 * frame >= placing.placements.length || !panes.some(({ kind }) => kind === 'steadied')) return false;
  const isNew = madeOf?.picture !== picture || madeOf.placing !== placing || madeOf.look !== look;
  if (isNew) painter.takeOutput(maker.make(picture, frame, placing, look, fillers));
  madeOf = { picture, placing, look };
  return true;
}

/** Fetches the frames that fill the edges of the one at rest, and draws it with them. */
async function fillEdges(): Promise<void> {
  if (!source || !maker || !placing || look?.edge !== 'fill' || playing || shown < 0) return;
  const frame = shown;
  const missing = maker.fillers(frame, placing, look).filter((other) => !fillers.has(other.frame));
  if (missing.length === 0) return;
  for (const near of fillers.keys()) if (Math.abs(near - frame) > 2 * fillReach) fillers.delete(near);
  for (const other of missing) {
    const found = await source.beside(other.frame);
    // The source uses its pictures' memory again.
    if (found) fillers.set(other.frame, { ...found, data: found.data.slice() });
    if (shown !== frame) return;
  }
  madeOf = null;
  draw(frame);
}

/** Brings the wanted frame up; while one is being decoded, later wishes replace each other. */
async function bring(): Promise<void> {
  if (busy || !source || !painter) return;
  busy = true;
  try {
    while (shown !== wanted) {
      const frame = wanted;
      const askedAt = wantedAt;
      const found = await source.get(frame);
      // A group is given up when the person has moved on; then the newer wish comes next.
      if (!found) continue;
      painter.take(found);
      picture = found;
      madeOf = null;
      draw(frame);
      shown = frame;
      void fillEdges();
      const milliseconds = performance.now() - askedAt;
      // The canvas reaches the screen with the next animation frame; only then is it true.
      requestAnimationFrame(() => tell({ type: 'shown', frame, milliseconds }));
    }
  } catch (error) {
    tell({ type: 'failed', reason: (error as Error).message });
  } finally {
    busy = false;
  }
}

function want(frame: number): void {
  wanted = frame;
  wantedAt = performance.now();
  void bring();
}

function tick(): void {
  if (!playing) return;
  const seconds = (playing.rate * (performance.now() - playing.startedAt)) / 1000;
  const frame = frameWhilePlaying(times, playing, seconds);
  if (frame === null) return tell({ type: 'ended', frame: playing.last });
  if (frame !== wanted) want(frame);
  requestAnimationFrame(tick);
}

/** Gives the canvas the size that is drawn at now. Returns whether it has changed, which empties it. */
function sizeCanvas(): boolean {
  const size = playing?.size ?? 1;
  const [width, height] = [full.width, full.height].map((n) => Math.max(1, Math.round(n * size)));
  if (!canvas || (canvas.width === width && canvas.height === height)) return false;
  canvas.width = width;
  canvas.height = height;
  return true;
}

async function open(order: Extract<StageOrder, { type: 'open' }>): Promise<void> {
  try {
    canvas = order.canvas;
    clip = order.clip;
    times = order.times;
    painter = new Painter(canvas, order.clip);
    source = await FrameSource.open(order.url);
    tell({ type: 'opened', frames: source.frames });
    void bring();
    maker = new OutputMaker(await WebAssembly.compileStreaming(fetch(kernelsUrl)), order.clip);
    draw(shown);
  } catch (error) {
    tell({ type: 'failed', reason: (error as Error).message });
  }
}

self.onmessage = ({ data: order }: MessageEvent<StageOrder>) => {
  switch (order.type) {
    case 'open':
      void open(order);
      break;
    case 'layout':
      panes = order.panes;
      background = order.background;
      ratio = order.ratio;
      full = { width: order.width, height: order.height };
      sizeCanvas();
      draw(shown);
      break;
    case 'placements':
      placing = order.placing;
      look = order.look;
      draw(shown);
      void fillEdges();
      break;
    case 'hatching':
      hatched = order.hatched;
      draw(shown);
      break;
    case 'compare':
      compared = order.as;
      draw(shown);
      break;
    case 'analysis':
      analysis = order.analysis;
      draw(shown);
      break;
    case 'show':
      playing = null;
      if (sizeCanvas()) draw(shown);
      want(order.frame);
      break;
    case 'play':
      if (!playing) requestAnimationFrame(tick);
      playing = { ...order, startedAt: performance.now() };
      if (sizeCanvas()) draw(shown);
      break;
    case 'pause':
      playing = null;
      if (sizeCanvas()) draw(shown);
      void fillEdges();
      break;
    case 'ride':
      ride = order.ride;
      draw(shown);
      break;
  }
};
