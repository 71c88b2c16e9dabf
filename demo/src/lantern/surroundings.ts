import { crown, disc, fade, halo, house, line, shape, weather, type Context } from '../paint.js';
import { randomFrom } from '../random.js';

export function sky(c: Context): void {
  c.fillStyle = fade(c, 0, 700, [
    [0, '#0b1730'],
    [0.55, '#1b3355'],
    [1, '#3a567a'],
  ]);
  c.fillRect(0, 0, 2160, 760);
  const random = randomFrom(5);
  for (let i = 0; i < 420; i++) {
    const bright = random() ** 3;
    disc(c, random() * 2160, random() * 620, 0.9 + bright * 2, `rgba(230,238,255,${0.25 + 0.7 * bright})`);
  }
  halo(c, 1560, 150, 330, [
    [0, 'rgba(240,240,225,0.5)'],
    [0.15, 'rgba(200,215,240,0.3)'],
    [1, 'rgba(140,170,220,0)'],
  ]);
  disc(c, 1560, 150, 38, '#f3efdf');
  disc(c, 1548, 142, 7, '#d9d6c8');
  disc(c, 1570, 160, 10, '#dedac9');
  weather(c, 128, 0.07, 3);
}

export function village(c: Context): void {
  const random = randomFrom(8);
  const points: [number, number][] = [[0, 420]];
  for (let x = 0; x <= 2180; x += 14)
    points.push([x, 190 - 60 * Math.sin(x / 260) - 26 * Math.sin(x / 91 + 1)]);
  points.push([2180, 420]);
  shape(c, points, '#1b2c45');
  for (let x = 40; x < 2120;) {
    const width = 90 + random() * 80;
    house(c, [x, 300, width, 84 + random() * 80], {
      wall: '#2c3d59',
      roof: '#1a2539',
      glass: '#1d2b44',
      random,
      lit: 0.42,
    });
    x += width + (random() < 0.3 ? 90 * random() : 4);
  }
  c.fillStyle = '#18263a';
  c.fillRect(0, 296, 2180, 130);
  weather(c, 32, 0.3, 6);
}

export function trees(c: Context): void {
  const random = randomFrom(15);
  for (const [x, y, r] of [
    [150, 250, 150],
    [430, 300, 100],
    [1130, 240, 130],
    [1960, 250, 180],
    [1720, 320, 90],
  ] as const) {
    line(
      c,
      [
        [x, y],
        [x + 6, 560],
      ],
      22,
      '#101a26',
    );
    crown(c, x, y, r, { random, dark: '#12202c', light: '#294256', leaf: 7 });
  }
  c.fillStyle = fade(c, 470, 640, [
    [0, '#1c2f3a'],
    [1, '#15232c'],
  ]);
  c.fillRect(0, 470, 2280, 180);
  weather(c, 32, 0.35, 12);
}

export function reeds(c: Context): void {
  const random = randomFrom(36);
  for (let i = 0; i < 420; i++) {
    const edge = random() < 0.5 ? random() ** 1.5 * 620 : 2840 - random() ** 1.5 * 700;
    const tall = 110 + random() * 210;
    const lean = (random() - 0.5) * 90;
    c.beginPath();
    c.moveTo(edge, 400);
    c.quadraticCurveTo(edge + lean * 0.2, 400 - tall * 0.6, edge + lean, 400 - tall);
    c.lineWidth = 4 + random() * 5;
    c.strokeStyle = `hsl(${190 + random() * 30} 26% ${8 + random() * 11}%)`;
    c.stroke();
    if (random() < 0.18) {
      c.fillStyle = '#241d1a';
      c.beginPath();
      c.ellipse(edge + lean, 396 - tall, 8, 26, lean / 300, 0, 2 * Math.PI);
      c.fill();
    }
  }
}
