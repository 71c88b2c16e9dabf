import {
  colourAt,
  dressPicture,
  evenTimes,
  filmsAt,
  framingMatrix,
  identity,
  matrixAt,
  matteAlone,
  multiply,
  noFraming,
  operationsAt,
  scaling,
  type Analysis,
  type CarriedLayer,
  type DressOperation,
  type LayerPicture,
  type Mat3,
  type Placing,
  type YuvFormat,
} from '@lurn/core';
import { frameWhilePlaying } from '../state/clip-times';
import kernelsUrl from '@lurn/core/kernels.wasm?url';
import { DressingRoom } from './dressing-room';
import { Films } from './films';
import { FrameSource, type Picture } from './frame-source';
import { fillReach, isMade, OutputMaker } from './output-maker';
import { Painter, type Pane } from './painter';
import type { PaneGeometry } from './panes';
import { riding, type Ride } from './ride';
import type { OutputLook, OutputName, StageNews, StageOrder } from './stage-messages';

// The stage's own thread: decodes the proxy and draws both pictures, so that the page's thread never waits.

let source: FrameSource | null = null;
let painter: Painter | null = null;
let canvas: OffscreenCanvas | null = null;
let clip: { width: number; height: number } | null = null;
let ownId = '';
let ratio = 1;
let panes: PaneGeometry[] = [];
let background: [number, number, number] = [0, 0, 0];
let analysis: Analysis | null = null;
let hatched = true;
let compared: Extract<StageOrder, { type: 'compare' }>['as'] = 'itself';
/** An output, and what makes of it what the rasteriser does not: there as soon as its kernels have come. */
interface Output {
  placing: Placing | null;
  look: OutputLook | null;
  maker: OutputMaker | null;
  /** What it was made of last. */
  madeOf: { picture: Picture; placing: Placing; look: OutputLook } | null;
}

const noOutput = (): Output => ({ placing: null, look: null, maker: null, madeOf: null });
const outputs: Record<OutputName, Output> = { own: noOutput(), other: noOutput() };
/** Frames at rest that are laid over each other are so far apart; null for one alone. */
let onion: number | null = null;
/** The frame that is shown, as the proxy has it, and as it is dressed. */
let plain: Picture | null = null;
let picture: Picture | null = null;
let layers: readonly CarriedLayer[] = [];
let pictures: ReadonlyMap<string, LayerPicture> = new Map();
let matteOf: string | null = null;
const films = new Films();
/** There as soon as the kernels have come; until then plain code does their work. */
let room: DressingRoom | null = null;
/** Counts what is drawn on: of what is dressed at once only the latest counts. */
let dressing = 0;
/** Frames about the one at rest, which fill its edges. */
const fillers = new Map<number, Picture>();
let times = evenTimes(1, 25);
let wanted = 0;
let wantedAt = 0;
let shown = -1;
let busy = false;
let playing: (Extract<StageOrder, { type: 'play' }> & { startedAt: number }) | null = null;
let ride: Ride | null = null;
/** How frames lie in the held picture. */
let held: Float64Array | null = null;
/** Canvas size at full resolution. */
let full = { width: 1, height: 1 };

const tell = (news: StageNews): void => self.postMessage(news);

function draw(frame: number): void {
  if (!painter || !canvas || frame < 0) return;
  painter.draw(panesAt(frame), background);
}

/** A frame with what is dressed onto it, by the same code as the export; the frame itself where that is nothing. */
async function dressed(frame: Picture, number: number): Promise<Picture> {
  const operations = operationsAt(layers, number);
  if (operations.length === 0 || !clip) return frame;
  const shown = new Map(pictures);
  for (const film of filmsAt(layers, number)) {
    const found = await films.at(film.clip || ownId, film.frame);
    if (found) shown.set(film.name, found);
  }
  const { width, height } = frame;
  const format = formatOf(frame);
  const scale = { x: width / clip.width, y: height / clip.height };
  const dress = (from: Picture['data'], some: readonly DressOperation[], matte?: Float32Array) => {
    if (room) return room.dress(from, format, some, shown, scale, matte);
    const made = from.slice();
    dressPicture(made, format, some, shown, scale, matte);
    return made;
  };
  const alone = operations.findIndex(({ layerId }) => layerId === matteOf);
  if (alone < 0) return { width, height, data: dress(frame.data, operations) };
  // What lies below has a say in what a colour key leaves.
  const matte = new Float32Array(width * height);
  const below = dress(frame.data, operations.slice(0, alone));
  const data = dress(below, [operations[alone]], matte);
  matteAlone(data, format, matte);
  return { width, height, data };
}

const formatOf = ({ width, height }: Picture): YuvFormat => ({
  ...{ width, height, subsampling: '420', siting: 'left', range: 'limited', bits: 8 },
});

/** The panes as a frame is drawn in them. */
function panesAt(frame: number): Pane[] {
  const scale = ratio * (playing?.size ?? 1);
  const { look } = outputs.own;
  const beyond =
    look?.edge === 'transparent' ? 'squares' : look?.edge === 'black' && hatched ? 'hatching' : 'black';
  return panes.map((fixed): Pane => {
    const pane = riding(fixed, ride, frame);
    const isSource = pane.kind === 'source';
    const { picture } = pane;
    const shown = (name: OutputName) => ({
      ...placed(name, frame, picture),
      made: makeOutput(name, frame) ? name : null,
    });
    const isHeld = pane.kind === 'held';
    const shows = isSource || isHeld ? null : pane.isOther || compared === 'source' ? 'other' : 'own';
    return {
      x: Math.round(pane.x * scale),
      y: Math.round(pane.y * scale),
      width: Math.round(pane.width * scale),
      height: Math.round(pane.height * scale),
      scaleX: pane.scaleX * scale,
      scaleY: pane.scaleY * scale,
      shiftX: pane.shiftX * scale,
      shiftY: pane.shiftY * scale,
      ...(shows
        ? shown(shows)
        : { outputFromFrame: isHeld ? heldAt(frame) : identity, byRows: null, made: null }),
      picture,
      beyond: isSource ? 'nothing' : isHeld ? 'black' : beyond,
      against: !isSource && !isHeld && compared === 'difference' ? shown('other') : null,
      analysis: isSource ? analysis : null,
    };
  });
}

/** How a frame lies in a pane's picture by an output; without other settings that is as the source lies in it. */
function placed(
  name: OutputName,
  frame: number,
  picture: { width: number; height: number },
): Pick<Pane, 'outputFromFrame' | 'byRows'> {
  const { placing, look } = outputs[name];
  if (name === 'other' && !placing) return { outputFromFrame: unsteadied(), byRows: null };
  if (!placing || !look || 9 * frame >= placing.placements.length)
    return { outputFromFrame: identity, byRows: null };
  const fitted = scaling(picture.width / look.size.width, picture.height / look.size.height);
  return {
    outputFromFrame: multiply(fitted, matrixAt(placing.placements, frame)),
    byRows: placing.rows ? { rows: placing.rows, frame } : null,
  };
}

/** How a frame lies in the held picture. */
const heldAt = (frame: number): Mat3 => (held && 9 * frame < held.length ? matrixAt(held, frame) : identity);

/** Where the source lies in the output at zoom 1, without anything taken out. */
function unsteadied(): Mat3 {
  const { look } = outputs.own;
  if (!look || !clip) return identity;
  return framingMatrix(noFraming, { ...clip, output: look.size, window: look.window });
}

/** Makes the picture of an output where the rasteriser does not do; whether there is one. */
function makeOutput(name: OutputName, frame: number): boolean {
  const output = outputs[name];
  const { maker, placing, look, madeOf } = output;
  if (!painter || !maker || !picture || !placing || !look || !isMade(look)) return false;
  const isNew = madeOf?.picture !== picture || madeOf.placing !== placing || madeOf.look !== look;
  if (isNew) painter.takeOutput(name, maker.make(picture, frame, placing, look, fillers));
  output.madeOf = { picture, placing, look };
  return true;
}

/** Fetches the frames that fill the edges of the one at rest, and draws it with them. */
async function fillEdges(): Promise<void> {
  if (!source || playing || shown < 0) return;
  const frame = shown;
  const missing = Object.values(outputs).flatMap(({ maker, placing, look }) =>
    maker && placing && look ? maker.fillers(frame, placing, look) : [],
  );
  const wanted = new Set(missing.map((other) => other.frame).filter((other) => !fillers.has(other)));
  if (wanted.size === 0) return;
  for (const near of fillers.keys()) if (Math.abs(near - frame) > 2 * fillReach) fillers.delete(near);
  for (const other of wanted) {
    const found = await source.beside(other);
    // The source uses its pictures' memory again.
    if (found) fillers.set(other, { ...found, data: found.data.slice() });
    if (shown !== frame) return;
  }
  for (const output of Object.values(outputs)) output.madeOf = null;
  draw(frame);
}

/** Frames before and after one that are laid over it. */
const onionSkins = 2;

/** Lays the frames about the one at rest over it, where each is steadied: what is held stays sharp. */
async function layOnion(): Promise<void> {
  const { placing, look } = outputs.own;
  if (onion === null || !source || !painter || !placing || !look || playing || shown < 0) return;
  const [frame, apart] = [shown, onion];
  const { length } = placing.placements;
  const skins: [frame: number, skin: Picture][] = [];
  for (let i = -onionSkins; i <= onionSkins; i++) {
    const other = frame + i * apart;
    if (i === 0 || other < 0 || 9 * other >= length) continue;
    const found = await source.beside(other);
    if (shown !== frame || onion !== apart) return;
    // The source uses its pictures' memory again.
    if (found) skins.push([other, { ...found, data: found.data.slice() }]);
  }
  draw(frame);
  const below = panesAt(frame);
  skins.forEach(([other, skin], i) => {
    painter?.take(skin);
    for (const pane of below)
      painter?.drawOver({ ...pane, ...placed('own', other, pane.picture) }, 1 / (i + 2));
  });
  if (picture) painter.take(picture);
}

/** What takes longer, once the picture stands. */
const finish = (): void => void fillEdges().then(layOnion);

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
      dressing++;
      plain = found;
      picture = await dressed(found, frame);
      painter.take(picture);
      for (const output of Object.values(outputs)) output.madeOf = null;
      draw(frame);
      shown = frame;
      finish();
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

/** Dresses the frame that is shown once more. */
async function dressAnew(): Promise<void> {
  const turn = ++dressing;
  const [frame, number] = [plain, shown];
  if (!frame || !painter || number < 0) return;
  const made = await dressed(frame, number);
  if (turn !== dressing) return;
  picture = made;
  painter.take(picture);
  draw(number);
  finish();
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
    ownId = order.id;
    times = order.times;
    painter = new Painter(canvas, order.clip);
    source = await FrameSource.open(order.url);
    tell({ type: 'opened', frames: source.frames });
    void bring();
    const kernels = await WebAssembly.compileStreaming(fetch(kernelsUrl));
    room = new DressingRoom(kernels);
    for (const output of Object.values(outputs)) output.maker = new OutputMaker(kernels, order.clip);
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
      if (onion !== null) finish();
      break;
    case 'placements':
      Object.assign(outputs[order.of], { placing: order.placing, look: order.look });
      draw(shown);
      finish();
      break;
    case 'onion':
      onion = order.apart;
      draw(shown);
      finish();
      break;
    case 'layers':
      layers = order.layers;
      pictures = order.pictures;
      matteOf = order.matteOf;
      void dressAnew();
      break;
    case 'pick':
      if (plain && clip) {
        const at = {
          x: (order.at.x * plain.width) / clip.width,
          y: (order.at.y * plain.height) / clip.height,
        };
        tell({ type: 'picked', colour: colourAt(plain.data, formatOf(plain), at, 1.5) });
      }
      break;
    case 'held':
      held = order.placements;
      draw(shown);
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
      if (sizeCanvas() || onion !== null) draw(shown);
      finish();
      break;
    case 'ride':
      ride = order.ride;
      draw(shown);
      break;
  }
};
