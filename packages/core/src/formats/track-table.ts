import { dsvFormat } from 'd3-dsv';
import { noSample, sampleStateNames, Samples, SampleState, type SampleStateName } from '../track/samples.js';
import { FormatError } from '../input-error.js';
import { type NamedTrack } from './track-file.js';
import type { ClipFacts } from './clip-facts.js';

/** What a column of a table of samples may tell. */
export const trackColumns = ['track', 'frame', 'x', 'y', 'confidence', 'rotation', 'scale', 'state'] as const;
export type TrackColumn = (typeof trackColumns)[number];

/** Lines of values, as they stand in the text. */
export interface TrackTable {
  /** The names of the columns; null where the first line holds numbers already. */
  heading: string[] | null;
  rows: string[][];
  /** The line of the text that each row is on, counted from 1. */
  lines: number[];
  delimiter: string;
}

export const lengthUnits = ['pixels', 'percent', 'share'] as const;
export const angleUnits = ['radians', 'degrees'] as const;

/** How a table is to be understood. */
export interface TableMapping {
  /** The place of each column that is read; a table of one track needs none for its name. */
  columns: Partial<Record<TrackColumn, number>>;
  /** Added to the table's frame numbers: −1 where it counts from one. */
  frameOffset: number;
  /** Of x and y: pixels of the clip, per cent of its size, or a share of it, 0 to 1. */
  units: (typeof lengthUnits)[number];
  yUp: boolean;
  /** Of the rotation. */
  angles: (typeof angleUnits)[number];
}

/** What is wrong with one line; it was left out. */
export interface LineError {
  line: number;
  message: string;
}

const delimiters = [',', ';', '\t'];

/** Takes a text of separated values apart, whichever of comma, semicolon and tab separates them. */
export function readTable(text: string): TrackTable {
  const clean = text.replace(/^\uFEFF/, '');
  const start = clean.slice(0, 4000);
  const count = (d: string): number => start.split(d).length;
  const delimiter = delimiters.reduce((a, b) => (count(b) > count(a) ? b : a));
  let line = 1;
  const lines: number[] = [];
  const all: string[][] = [];
  for (const row of dsvFormat(delimiter).parseRows(clean)) {
    const at = line;
    // A quoted value may hold line breaks of its own.
    line += 1 + row.reduce((sum, value) => sum + value.split('\n').length - 1, 0);
    if (row.every((value) => value.trim() === '')) continue;
    all.push(row.map((value) => value.trim()));
    lines.push(at);
  }
  if (all.length === 0) throw new FormatError('There are no values in it.');
  const named = all[0].every((value) => Number.isNaN(numberIn(value)));
  return named
    ? { heading: all[0], rows: all.slice(1), lines: lines.slice(1), delimiter }
    : { heading: null, rows: all, lines, delimiter };
}

/** A number, with a point or a comma before its fraction; NaN where it is none. */
function numberIn(value: string): number {
  if (value === '') return NaN;
  return Number(/^-?\d+,\d+$/.test(value) ? value.replace(',', '.') : value);
}

/** Names that columns go by, in small letters. */
const known: Record<TrackColumn, string[]> = {
  track: ['track', 'name', 'id', 'point', 'feature', 'label', 'marker'],
  frame: ['frame', 'frames', 'f', 'n', 'time', 't', 'index', 'bild'],
  x: ['x', 'px', 'pos_x', 'posx', 'x_px', 'horizontal', 'u', 'left'],
  y: ['y', 'py', 'pos_y', 'posy', 'y_px', 'vertical', 'v', 'top'],
  confidence: ['confidence', 'score', 'weight', 'quality'],
  rotation: ['rotation', 'angle', 'rot'],
  scale: ['scale', 'size', 'zoom'],
  state: ['state', 'status'],
};

/** The likeliest way to understand a table; what its column names do not tell is left to be chosen. */
export function guessMapping({ heading }: TrackTable): TableMapping {
  const columns: TableMapping['columns'] = {};
  (heading ?? []).forEach((name, i) => {
    const plain = name
      .toLowerCase()
      .replace(/\(.*\)|\[.*\]/g, '')
      .trim();
    const column = trackColumns.find((c) => known[c].includes(plain));
    if (column && columns[column] === undefined) columns[column] = i;
  });
  const names = (heading ?? []).join(' ').toLowerCase();
  return {
    columns,
    frameOffset: 0,
    units: /%|percent/.test(names) ? 'percent' : 'pixels',
    yUp: false,
    angles: /deg|°/.test(names) ? 'degrees' : 'radians',
  };
}

/**
 * Reads tracks out of a table for a clip. A line that cannot be used is left out and told of; throws a FormatError
 * where frame, x or y has no column.
 */
export function readTrackTable(
  table: TrackTable,
  mapping: TableMapping,
  clip: Pick<ClipFacts, 'width' | 'height' | 'frames'>,
): { tracks: NamedTrack[]; errors: LineError[] } {
  const { columns, frameOffset, units, yUp, angles } = mapping;
  for (const column of ['frame', 'x', 'y'] as const)
    if (columns[column] === undefined) throw new FormatError(`Say which column holds ${spoken[column]}.`);
  const errors: LineError[] = [];
  const tracks = new Map<string, NamedTrack>();
  table.rows.forEach((row, i) => {
    const line = table.lines[i];
    const refuse = (message: string): void => void errors.push({ line, message });
    const text = (column: TrackColumn): string => row[columns[column] ?? -1] ?? '';
    const number = (column: TrackColumn): number => numberIn(text(column));
    const wrong = (['frame', 'x', 'y'] as const).find((column) => !Number.isFinite(number(column)));
    if (wrong)
      return refuse(
        text(wrong) === ''
          ? `${spoken[wrong]} is missing.`
          : `"${text(wrong)}" is no number for ${spoken[wrong]}.`,
      );
    const frame = number('frame') + frameOffset;
    if (!Number.isInteger(frame)) return refuse(`${text('frame')} is not a whole frame number.`);
    if (frame < 0 || frame >= clip.frames)
      return refuse(`Frame ${frame} is outside the clip; its frames are 0 to ${clip.frames - 1}.`);
    const full = { pixels: { x: 1, y: 1 }, percent: { x: clip.width / 100, y: clip.height / 100 } };
    const unit = units === 'share' ? { x: clip.width, y: clip.height } : full[units];
    const y = number('y') * unit.y;
    const name = text('track') || 'Track';
    const track = tracks.get(name) ?? { name, samples: new Samples(clip.frames) };
    if (track.samples.state[frame]) return refuse(`"${name}" has a place on frame ${frame} already.`);
    tracks.set(name, track);
    const state = sampleStateNames.indexOf(text('state') as SampleStateName);
    const or = (value: number, otherwise: number): number => (Number.isFinite(value) ? value : otherwise);
    track.samples.set(frame, {
      ...noSample,
      x: number('x') * unit.x,
      y: yUp ? clip.height - y : y,
      confidence: Math.min(Math.max(or(number('confidence'), 1), 0), 1),
      rotation: or(number('rotation'), 0) * (angles === 'degrees' ? Math.PI / 180 : 1) * (yUp ? -1 : 1),
      scale: or(number('scale'), 1),
      state: state > 0 ? (state as SampleState) : SampleState.tracked,
    });
  });
  return { tracks: [...tracks.values()], errors };
}

const spoken: Record<'frame' | 'x' | 'y', string> = { frame: 'the frame', x: 'x', y: 'y' };
