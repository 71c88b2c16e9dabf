import {
  across,
  crown,
  disc,
  fade,
  halo,
  house,
  line,
  shape,
  stones,
  weather,
  type Context,
} from '../paint.js';
import { randomFrom } from '../random.js';

export function sky(c: Context): void {
  c.fillStyle = fade(c, 0, 640, [
    [0, '#5f86ad'],
    [0.35, '#93aebb'],
    [0.6, '#e3c49a'],
    [0.82, '#f6c583'],
    [1, '#f3a866'],
  ]);
  c.fillRect(0, 0, 2200, 700);
  halo(c, 1560, 560, 620, [
    [0, 'rgba(255,244,205,1)'],
    [0.07, 'rgba(255,236,180,0.95)'],
    [0.25, 'rgba(255,206,130,0.45)'],
    [1, 'rgba(255,180,110,0)'],
  ]);
  const random = randomFrom(11);
  for (let bank = 0; bank < 9; bank++) {
    const y = 70 + bank * 52 + random() * 20;
    const x = random() * 2200;
    for (let i = 0; i < 60; i++) {
      const px = x + (random() + random() - 1) * 430;
      const py = y + (random() + random() - 1) * 22;
      const r = 18 + random() * 44;
      c.save();
      c.translate(px, py);
      c.scale(2.4, 0.55);
      halo(c, 0, 0, r, [
        [0, `rgba(255,${224 - bank * 3},${206 - bank * 9},0.16)`],
        [1, 'rgba(255,220,190,0)'],
      ]);
      c.restore();
    }
  }
  weather(c, 128, 0.08, 5);
}

export function farBank(c: Context): void {
  const random = randomFrom(23);
  const ridge = (base: number, tall: number, colour: string, wave: number): void => {
    const points: [number, number][] = [[0, 330]];
    for (let x = 0; x <= 2220; x += 12) {
      points.push([
        x,
        base -
          tall * (0.55 + 0.3 * Math.sin(x / wave + base) + 0.2 * Math.sin(x / (wave * 0.37) + 2)) +
          random() * 4,
      ]);
    }
    points.push([2220, 330]);
    shape(c, points, colour);
  };
  ridge(170, 110, '#a9a5a6', 230);
  ridge(215, 95, '#8d918d', 170);
  ridge(262, 70, '#71795f', 120);
  for (let x = 20; x < 2200; x += 34 + random() * 60) {
    const r = 16 + random() * 26;
    crown(c, x, 262 - r * 0.6, r, { random, dark: '#4b5638', light: '#9a9a56', leaf: 3.4 });
  }
  const walls = ['#d9b58c', '#c99775', '#e2cda6', '#b98468', '#cdb49a', '#d6a27f'];
  const roofs = ['#7c4533', '#8d5540', '#5f4a47', '#6f3d30'];
  for (let x = 120, i = 0; x < 2120; i++) {
    const width = 86 + random() * 80;
    const gap = random() < 0.25 ? 60 + random() * 130 : random() * 10;
    house(c, [x, 300, width, 70 + random() * 72], {
      wall: walls[i % walls.length],
      roof: roofs[(i * 3) % roofs.length],
      glass: '#4d5864',
      random,
      lit: 0.28,
    });
    x += width + gap;
  }
  // The village church.
  c.fillStyle = '#c2b096';
  c.fillRect(1290, 120, 62, 182);
  c.fillStyle = across(c, 1290, 1352, [
    [0, 'rgba(255,226,170,0.4)'],
    [1, 'rgba(40,40,60,0.3)'],
  ]);
  c.fillRect(1290, 120, 62, 182);
  shape(
    c,
    [
      [1284, 122],
      [1321, 12],
      [1358, 122],
    ],
    '#56505a',
  );
  disc(c, 1321, 160, 19, '#f0e6cc');
  disc(c, 1321, 160, 16, '#3b3f4c');
  line(
    c,
    [
      [1321, 160],
      [1321, 148],
    ],
    3,
    '#f0dc9c',
  );
  line(
    c,
    [
      [1321, 160],
      [1330, 166],
    ],
    3,
    '#f0dc9c',
  );
  c.fillStyle = fade(c, 296, 340, [
    [0, '#6d6a45'],
    [1, '#4d4a3c'],
  ]);
  c.fillRect(0, 298, 2220, 42);
  stones(c, [0, 308, 2220, 30], {
    course: 10,
    length: 26,
    random,
    colour: (v) => `hsl(34 16% ${34 + v * 20}%)`,
  });
  weather(c, 32, 0.34, 7);
}

export function water(c: Context): void {
  c.fillStyle = fade(c, 0, 470, [
    [0, '#e2b37c'],
    [0.18, '#b99b83'],
    [0.5, '#6d8088'],
    [1, '#3d5560'],
  ]);
  c.fillRect(0, 0, 2360, 480);
  const random = randomFrom(31);
  // Houses and sky, upside down and broken up by the ripples.
  for (let i = 0; i < 2600; i++) {
    const depth = random() ** 1.6;
    const y = 4 + depth * 470;
    const long = 8 + depth * 90;
    const warm = random() < 0.45;
    c.fillStyle = warm
      ? `rgba(255,${205 + random() * 30},150,${0.1 + 0.16 * random()})`
      : `rgba(34,52,62,${0.08 + 0.16 * random()})`;
    c.beginPath();
    c.ellipse(random() * 2360, y, long, 0.8 + depth * 3.2, 0, 0, 2 * Math.PI);
    c.fill();
  }
  for (let i = 0; i < 480; i++) {
    const depth = random() ** 1.4;
    c.fillStyle = `rgba(255,240,200,${0.2 + 0.4 * random()})`;
    c.beginPath();
    c.ellipse(
      1640 + (random() + random() - 1) * (120 + 300 * depth),
      4 + depth * 440,
      4 + depth * 34,
      0.8 + depth * 2,
      0,
      0,
      2 * Math.PI,
    );
    c.fill();
  }
  weather(c, 64, 0.22, 9);
}

export function ripples(seed: number, tint: string): (c: Context) => void {
  return (c) => {
    const random = randomFrom(seed);
    for (let i = 0; i < 620; i++) {
      const depth = 0.08 + 0.92 * random();
      c.globalAlpha = 0.08 + 0.22 * random();
      c.fillStyle = tint;
      c.beginPath();
      c.ellipse(
        random() * 2700,
        depth * 400,
        6 + depth * 46 * random(),
        0.7 + depth * 2.2,
        0,
        0,
        2 * Math.PI,
      );
      c.fill();
    }
  };
}
