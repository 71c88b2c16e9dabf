/** Motion groups are told apart by shade and by mark: colour alone tells nothing to many people. */
const shades = ['#6cc5e0', '#f0b45c', '#e58fb1', '#7fcf9b', '#d9dc6a', '#a9a4f0', '#ef8b62', '#9fb7c4'];

/** Marks about (0, 0), about 7 wide. */
const marks = [
  'm-3.5 0a3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0-7 0',
  'm-3.2-3.2h6.4v6.4h-6.4z',
  'm0-4l3.8 6.8h-7.6z',
  'm0-4.4l4.2 4.4l-4.2 4.4l-4.2-4.4z',
  'm-3.4-3.4l6.8 6.8m0-6.8l-6.8 6.8',
  'm-4 0h8m-4-4v8',
  'm0 4l3.8-6.8h-7.6z',
  'm-4 0h8',
];

export const groupShade = (group: number): string => (group < 0 ? '#c3ccd2' : shades[group % shades.length]);

/** A mark as a piece of a path, from wherever the pen is. */
export const groupMark = (group: number): string => (group < 0 ? 'm-0.8 0h1.6' : marks[group % marks.length]);

/** Where a group lies, in a word: nearer or farther than the first, or by itself. */
export function placeInWords(group: number, depth: number | null): string {
  if (group === 0) return 'most of the picture';
  if (depth === null) return 'moves by itself';
  return depth > 0 ? 'nearer' : 'farther';
}
