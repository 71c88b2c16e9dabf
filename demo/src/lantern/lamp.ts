import { disc, fade, halo, line, shape, type Context } from '../paint.js';

export function lamp(c: Context): void {
  c.lineWidth = 6;
  c.strokeStyle = '#d8b878';
  c.beginPath();
  c.arc(80, 30, 20, Math.PI, 2 * Math.PI);
  c.stroke();
  line(
    c,
    [
      [60, 30],
      [52, 62],
    ],
    5,
    '#8f6e3c',
  );
  line(
    c,
    [
      [100, 30],
      [108, 62],
    ],
    5,
    '#8f6e3c',
  );
  shape(
    c,
    [
      [40, 66],
      [80, 36],
      [120, 66],
    ],
    '#2b2722',
  );
  shape(
    c,
    [
      [50, 62],
      [80, 42],
      [110, 62],
    ],
    '#7d6238',
  );
  c.fillStyle = '#2a231c';
  c.fillRect(34, 64, 92, 14);
  c.fillStyle = '#e8c987';
  for (let k = 0; k < 4; k++) c.fillRect(42 + 22 * k, 67, 10, 8);
  c.fillStyle = fade(c, 78, 176, [
    [0, '#f6b95b'],
    [0.45, '#fff1c4'],
    [1, '#f0a048'],
  ]);
  c.fillRect(40, 78, 80, 100);
  c.fillStyle = '#fffbe8';
  c.beginPath();
  c.ellipse(80, 132, 12, 26, 0, 0, 2 * Math.PI);
  c.fill();
  for (const x of [42, 80, 118])
    line(
      c,
      [
        [x, 78],
        [x, 178],
      ],
      7,
      '#2a231c',
    );
  line(
    c,
    [
      [40, 112],
      [120, 112],
    ],
    5,
    '#2a231c',
  );
  disc(c, 61, 146, 7, '#7a3a26');
  shape(
    c,
    [
      [92, 150],
      [110, 150],
      [101, 134],
    ],
    '#45311f',
  );
  c.fillStyle = '#2a231c';
  c.fillRect(30, 176, 100, 18);
  c.fillStyle = '#c79b55';
  c.fillRect(38, 180, 26, 9);
  c.fillRect(74, 180, 14, 9);
  c.fillRect(98, 180, 22, 9);
  c.fillRect(54, 194, 52, 8);
}

/** Width and height of the glow's picture. */
export const glowSize = 1100;

export function glow(c: Context): void {
  const h = glowSize / 2;
  halo(c, h, h, h, [
    [0, 'rgba(255,190,96,0.5)'],
    [0.12, 'rgba(255,176,84,0.3)'],
    [0.4, 'rgba(240,140,60,0.1)'],
    [1, 'rgba(200,110,50,0)'],
  ]);
}
