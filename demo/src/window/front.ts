import { disc, fade, letters, line, stones, weather, type Context } from '../paint.js';
import { randomFrom } from '../random.js';

/** The front's picture, and what of it is glass, in its pixels. */
export const frontSize = { width: 5000, height: 2000 };
export const glass = { left: 1990, top: 690, width: 640, height: 400 };
/** How far the screen's frame reaches beyond its glass. */
const bezel = 26;

/** The ticket house from outside: brick, boards, a sill, the ticket window, and a hole where the screen's glass is. */
export function front(c: Context): void {
  const random = randomFrom(61);
  const { width, height } = frontSize;
  c.fillStyle = '#8d7b68';
  c.fillRect(0, 0, width, height);
  stones(c, [0, 0, width, height], {
    course: 34,
    length: 88,
    random,
    colour: (v) => `hsl(${16 + v * 12} ${26 + v * 10}% ${38 + v * 17}%)`,
  });
  // The foot of the wall, and the landing's boards before it.
  stones(c, [0, 1390, width, 130], {
    course: 65,
    length: 170,
    random,
    colour: (v) => `hsl(30 8% ${46 + v * 14}%)`,
  });
  for (let y = 1520, row = 0; y < height; y += 48, row++)
    for (let x = -random() * 300; x < width;) {
      const long = 280 + 180 * random();
      c.fillStyle = `hsl(28 ${18 + 8 * random()}% ${34 + 12 * random()}%)`;
      c.fillRect(x + 2, y + 2, long - 4, 44);
      x += long;
    }
  ticketWindow(c, 1190, 600);
  timetable(c, 2860, 640, random);
  c.fillStyle = '#d9d2c2';
  c.fillRect(1180, 400, 1560, 110);
  c.fillStyle = '#24505c';
  c.fillRect(1194, 414, 1532, 82);
  letters(c, 'WITHY FERRY', 1520, 430, 50, '#f1e6c6');
  frame(c);
  weather(c, 24, 0.22, 31);
  c.clearRect(glass.left, glass.top, glass.width, glass.height);
}

/** What holds the screen: a metal frame with screws, and a label. */
function frame(c: Context): void {
  const { left, top, width, height } = glass;
  const [x, y, w, h] = [left - bezel, top - bezel, width + 2 * bezel, height + 2 * bezel];
  c.fillStyle = fade(c, y, y + h, [
    [0, '#c9ccca'],
    [0.5, '#9da3a3'],
    [1, '#7d8585'],
  ]);
  c.fillRect(x, y, w, h);
  c.lineWidth = 3;
  c.strokeStyle = '#4d5455';
  c.strokeRect(x + 1.5, y + 1.5, w - 3, h - 3);
  for (const [u, v] of [
    [0, 0],
    [1, 0],
    [0, 1],
    [1, 1],
    [0.5, 0],
    [0.5, 1],
  ])
    disc(c, x + 13 + u * (w - 26), y + 13 + v * (h - 26), 6, '#3d4344');
  letters(c, 'FERRY 2', x + 60, y + h - 19, 12, '#2c3132');
}

/** A counter behind a pane with a grille, and the sill where money is put. */
function ticketWindow(c: Context, x: number, y: number): void {
  c.fillStyle = '#5b3b2a';
  c.fillRect(x, y, 560, 560);
  c.fillStyle = fade(c, y, y + 420, [
    [0, '#27333a'],
    [1, '#5f6a68'],
  ]);
  c.fillRect(x + 34, y + 34, 492, 420);
  letters(c, 'TICKETS', x + 150, y + 70, 44, '#e9d9a8');
  for (let k = 1; k < 8; k++)
    line(
      c,
      [
        [x + 34 + k * 61.5, y + 150],
        [x + 34 + k * 61.5, y + 454],
      ],
      6,
      '#b9a05e',
    );
  c.fillStyle = '#e2d7bd';
  c.fillRect(x - 30, y + 500, 620, 40);
  c.fillStyle = '#3a2a20';
  c.fillRect(x + 210, y + 470, 140, 30);
}

/** A board with rows of sailings. */
function timetable(c: Context, x: number, y: number, random: () => number): void {
  c.fillStyle = '#3b2b20';
  c.fillRect(x, y, 470, 620);
  c.fillStyle = '#eee6cf';
  c.fillRect(x + 16, y + 16, 438, 588);
  c.fillStyle = '#24505c';
  c.fillRect(x + 16, y + 16, 438, 84);
  letters(c, 'TIMES', x + 130, y + 38, 40, '#f3ead0');
  for (let row = 0; row < 16; row++) {
    const at = y + 122 + row * 29;
    c.fillStyle = row % 2 ? '#e2d8bd' : '#eee6cf';
    c.fillRect(x + 16, at, 438, 29);
    c.fillStyle = '#3c3a36';
    c.fillRect(x + 36, at + 9, 60 + 110 * random(), 11);
    c.fillRect(x + 256, at + 9, 26 + 24 * random(), 11);
    c.fillRect(x + 346, at + 9, 26 + 24 * random(), 11);
  }
}

/** What shows above the wall. */
export function sky(c: Context): void {
  c.fillStyle = fade(c, 0, 1600, [
    [0, '#9fb8c8'],
    [1, '#d8dfdc'],
  ]);
  c.fillRect(0, 0, 10400, 2000);
  weather(c, 256, 0.12, 77);
}
