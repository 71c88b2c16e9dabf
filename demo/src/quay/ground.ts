import { across, disc, line, shape, weather, type Context } from '../paint.js';
import { randomFrom } from '../random.js';

export function cobbles(c: Context): void {
  const random = randomFrom(67);
  c.fillStyle = '#3f352d';
  c.fillRect(0, 14, 2700, 330);
  for (let y = 14, row = 0; y < 340; row++) {
    const size = 30 + row * 3.4;
    for (let x = -random() * size; x < 2700; x += size * (0.95 + 0.12 * random())) {
      const v = random();
      c.fillStyle = `hsl(${28 + v * 12} ${12 + v * 10}% ${36 + v * 22}%)`;
      c.beginPath();
      c.ellipse(x, y + size * 0.32, size * 0.46, size * 0.31, 0, 0, 2 * Math.PI);
      c.fill();
      c.fillStyle = 'rgba(255,226,170,0.3)';
      c.beginPath();
      c.ellipse(x + size * 0.1, y + size * 0.2, size * 0.28, size * 0.1, 0, 0, 2 * Math.PI);
      c.fill();
    }
    y += size * 0.62;
  }
  weather(c, 32, 0.45, 19);
}

export function bollards(c: Context): void {
  for (const x of [230, 1010, 1870, 2620]) {
    c.fillStyle = 'rgba(20,16,20,0.45)';
    c.beginPath();
    c.ellipse(x - 60, 340, 130, 22, 0, 0, 2 * Math.PI);
    c.fill();
    const metal = across(c, x - 60, x + 60, [
      [0, '#1f2629'],
      [0.3, '#3b474b'],
      [0.72, '#7e8780'],
      [0.86, '#e4c592'],
      [1, '#4b4a44'],
    ]);
    shape(
      c,
      [
        [x - 44, 90],
        [x + 44, 90],
        [x + 58, 340],
        [x - 58, 340],
      ],
      metal,
    );
    c.fillStyle = metal;
    c.beginPath();
    c.roundRect(x - 74, 34, 148, 62, 26);
    c.fill();
    c.fillStyle = '#e9dfc6';
    c.fillRect(x - 49, 168, 100, 30);
    c.fillStyle = '#9b3b2b';
    c.fillRect(x - 50, 198, 104, 26);
    for (let k = 0; k < 4; k++)
      line(
        c,
        [
          [x - 46, 112 + k * 13],
          [x + 46, 104 + k * 13],
        ],
        11,
        k % 2 ? '#b89a67' : '#8e744b',
      );
    disc(c, x, 64, 13, '#22282a');
    disc(c, x + 3, 61, 5, '#c9b98f');
  }
  for (const [from, to] of [
    [276, 964],
    [1056, 1824],
    [1916, 2574],
  ] as const) {
    for (const [width, colour] of [
      [15, '#6d5836'],
      [9, '#b3935d'],
      [3, '#e2c68b'],
    ] as const) {
      c.beginPath();
      c.moveTo(from, 130);
      c.quadraticCurveTo((from + to) / 2, 330, to, 130);
      c.lineWidth = width;
      c.strokeStyle = colour;
      c.stroke();
    }
  }
  weather(c, 16, 0.4, 29);
}
