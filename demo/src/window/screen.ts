import { fade, halo, letters, line, weather, type Context } from '../paint.js';
import { glass } from './front.js';

/** The screen's dark picture is a little larger than the glass that it is seen through. */
export const margin = 12;

/** A dark screen with little on it: a line of words, a bar, and a scratch across the glass. */
export function screen(c: Context): void {
  const { width, height } = glass;
  c.fillStyle = fade(c, 0, height, [
    [0, '#131b22'],
    [1, '#0b1116'],
  ]);
  c.fillRect(0, 0, width + 2 * margin, height + 2 * margin);
  letters(c, 'NEXT FERRY 14 20', margin + 40, margin + 44, 24, '#5f7f86');
  c.fillStyle = '#27414a';
  c.fillRect(margin + 40, margin + 88, 300, 4);
  letters(c, 'HEATHER', margin + 40, margin + height - 66, 20, '#42626b');
  for (let k = 0; k < 5; k++) {
    c.fillStyle = k < 2 ? '#8a6f36' : '#2a3033';
    c.fillRect(margin + width - 210 + k * 34, margin + height - 64, 22, 16);
  }
  scratch(c);
  weather(c, 16, 0.05, 12);
}

/** In the screen's picture: where the scratch runs. */
export const scratched: [x: number, y: number][] = [
  [380, 170],
  [432, 214],
  [470, 232],
  [536, 290],
];

function scratch(c: Context): void {
  c.lineCap = 'round';
  c.lineJoin = 'round';
  line(c, scratched, 4, '#6d7476');
  line(c, scratched, 1.6, '#aeb4b2');
}

export const reflectionSize = { width: 3000, height: 1400 };

/** What the glass mirrors: the sky's light, a post, the far bank. It adds light. */
export function reflection(c: Context): void {
  const { width, height } = reflectionSize;
  c.fillStyle = fade(c, 0, height, [
    [0, 'rgba(150,180,200,0.16)'],
    [0.5, 'rgba(120,140,150,0.08)'],
    [1, 'rgba(60,70,70,0.05)'],
  ]);
  c.fillRect(0, 0, width, height);
  for (let k = 0; k < 9; k++) {
    const x = 140 + k * 330;
    halo(c, x, 420 + 160 * Math.sin(k * 1.7), 190, [
      [0, 'rgba(230,238,240,0.22)'],
      [0.5, 'rgba(190,205,215,0.09)'],
      [1, 'rgba(120,140,160,0)'],
    ]);
    c.fillStyle = 'rgba(190,200,190,0.1)';
    c.fillRect(x + 150, 260, 26, 900);
  }
}
