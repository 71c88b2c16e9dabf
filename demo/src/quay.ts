import { similarityMatrix } from '@lurn/core';
import { handHeld } from './camera.js';
import {
  across,
  crown,
  disc,
  fade,
  halo,
  house,
  letters,
  line,
  shape,
  stones,
  weather,
  type Context,
} from './paint.js';
import { randomFrom } from './random.js';
import { picture, still, type Layer, type Scene } from './scene.js';
import { quaySound } from './sound.js';

const frames = 300;
const frameRate = { numerator: 30000, denominator: 1001 };
const seconds = (frames * frameRate.denominator) / frameRate.numerator;

/** A slow pan that begins and ends at rest. */
function pan(t: number): { x: number; y: number } {
  const s = Math.min(Math.max(t / seconds, 0), 1);
  return { x: -190 + 380 * s * s * (3 - 2 * s), y: 6 * Math.sin(Math.PI * s) };
}

function sky(c: Context): void {
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

function farBank(c: Context): void {
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

function water(c: Context): void {
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

function ripples(seed: number, tint: string): (c: Context) => void {
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

function ferry(c: Context): void {
  const random = randomFrom(41);
  c.fillStyle = 'rgba(20,30,36,0.35)';
  c.beginPath();
  c.ellipse(260, 176, 246, 13, 0, 0, 2 * Math.PI);
  c.fill();
  shape(
    c,
    [
      [22, 120],
      [498, 120],
      [470, 176],
      [58, 176],
    ],
    fade(c, 120, 176, [
      [0, '#8d3f2e'],
      [0.55, '#6d2c22'],
      [1, '#36211f'],
    ]),
  );
  c.fillStyle = '#efe0bd';
  c.fillRect(20, 114, 480, 9);
  line(
    c,
    [
      [34, 146],
      [486, 146],
    ],
    2,
    'rgba(255,220,180,0.5)',
  );
  for (let x = 40; x <= 480; x += 40)
    line(
      c,
      [
        [x, 114],
        [x, 84],
      ],
      3,
      '#4d4440',
    );
  line(
    c,
    [
      [40, 86],
      [480, 86],
    ],
    3,
    '#efe6d0',
  );
  c.fillStyle = fade(c, 36, 114, [
    [0, '#f3e7c8'],
    [1, '#cbb48a'],
  ]);
  c.fillRect(180, 36, 170, 78);
  for (let i = 0; i < 4; i++) {
    c.fillStyle = i === 2 ? '#ffd98a' : '#43606b';
    c.fillRect(192 + i * 39, 50, 27, 30);
    c.strokeStyle = '#6b4a35';
    c.lineWidth = 3;
    c.strokeRect(192 + i * 39, 50, 27, 30);
  }
  shape(
    c,
    [
      [168, 38],
      [182, 24],
      [348, 24],
      [362, 38],
    ],
    '#50645c',
  );
  line(
    c,
    [
      [266, 24],
      [266, 0],
    ],
    4,
    '#463a34',
  );
  letters(c, 'WITHY', 206, 90, 14, '#5b3426');
  disc(c, 410, 100, 13, '#d85a38');
  disc(c, 410, 100, 7, '#d9cdb2');
  for (const [x, coat] of [
    [92, '#314a5c'],
    [128, '#7c3d34'],
    [444, '#3f4d3a'],
  ] as const) {
    c.fillStyle = coat;
    c.beginPath();
    c.roundRect(x - 8, 74, 16, 40, 6);
    c.fill();
    disc(c, x, 66, 7, '#c99a78');
    disc(c, x, 62, 6, random() < 0.5 ? '#3c2c22' : '#6b5136');
  }
  weather(c, 16, 0.35, 13);
}

function crane(c: Context): void {
  const iron = '#34424a';
  const light = '#9fb0ae';
  const random = randomFrom(53);
  // Quay floor and its edge towards the water.
  c.fillStyle = fade(c, 790, 1120, [
    [0, '#b39a7a'],
    [1, '#8a745c'],
  ]);
  c.fillRect(0, 796, 2480, 330);
  stones(c, [0, 790, 2480, 34], {
    course: 34,
    length: 150,
    random,
    colour: (v) => `hsl(36 22% ${56 + v * 14}%)`,
  });
  stones(c, [0, 824, 2480, 300], {
    course: 26,
    length: 60,
    random,
    colour: (v) => `hsl(33 20% ${38 + v * 22}%)`,
  });
  // A warehouse at the left.
  c.fillStyle = '#5d4032';
  c.fillRect(0, 140, 420, 660);
  stones(c, [0, 140, 420, 660], {
    course: 19,
    length: 46,
    random,
    colour: (v) => `hsl(${14 + v * 10} 38% ${31 + v * 17}%)`,
  });
  c.fillStyle = '#c7b48f';
  c.fillRect(404, 140, 22, 660);
  for (let y = 140; y < 800; y += 44)
    line(
      c,
      [
        [404, y],
        [426, y],
      ],
      3,
      '#7c6c53',
    );
  for (const y of [230, 470]) {
    for (const x of [70, 235]) {
      c.fillStyle = '#d6c4a0';
      c.fillRect(x - 10, y - 10, 120, 160);
      c.fillStyle = fade(c, y, y + 140, [
        [0, '#f8cf86'],
        [1, '#6a6f70'],
      ]);
      c.fillRect(x, y, 100, 140);
      for (let k = 1; k < 4; k++)
        line(
          c,
          [
            [x + k * 25, y],
            [x + k * 25, y + 140],
          ],
          4,
          '#4f3a2c',
        );
      for (let k = 1; k < 4; k++)
        line(
          c,
          [
            [x, y + k * 35],
            [x + 100, y + k * 35],
          ],
          4,
          '#4f3a2c',
        );
    }
  }
  c.fillStyle = '#2f4c50';
  c.fillRect(40, 400, 350, 50);
  letters(c, 'WITHY FERRY', 76, 410, 30, '#f2dfae');
  // The crane: lattice mast, cabin, jib, stays, hook.
  c.fillStyle = '#5f564d';
  c.fillRect(1130, 760, 260, 60);
  stones(c, [1130, 760, 260, 60], {
    course: 30,
    length: 64,
    random,
    colour: (v) => `hsl(30 8% ${38 + v * 14}%)`,
  });
  const lattice = (
    x0: number,
    y0: number,
    x1: number,
    y1: number,
    wide0: number,
    wide1: number,
    steps: number,
  ): void => {
    const dx = x1 - x0;
    const dy = y1 - y0;
    const long = Math.hypot(dx, dy);
    const nx = -dy / long;
    const ny = dx / long;
    const rail = (side: number, s: number): [number, number] => {
      const w = side * (wide0 + (wide1 - wide0) * s) * 0.5;
      return [x0 + dx * s + nx * w, y0 + dy * s + ny * w];
    };
    for (let i = 0; i < steps; i++) {
      const s = i / steps;
      const e = (i + 1) / steps;
      line(c, [rail(-1, s), rail(1, e)], 5, iron);
      line(c, [rail(1, s), rail(-1, e)], 5, '#4a5a60');
      line(c, [rail(-1, e), rail(1, e)], 5, iron);
      for (const p of [rail(-1, e), rail(1, e)]) disc(c, p[0], p[1], 6, '#8d6a4c');
    }
    for (const side of [-1, 1]) {
      line(c, [rail(side, 0), rail(side, 1)], 11, iron);
      line(c, [rail(side, 0), rail(side, 1)], 3, light);
    }
  };
  lattice(1260, 760, 1260, 300, 130, 84, 8);
  lattice(1262, 380, 720, 96, 66, 26, 11);
  lattice(1280, 330, 1470, 300, 60, 46, 3);
  line(
    c,
    [
      [1260, 210],
      [720, 92],
    ],
    4,
    '#2c3439',
  );
  line(
    c,
    [
      [1260, 210],
      [1470, 286],
    ],
    4,
    '#2c3439',
  );
  shape(
    c,
    [
      [1236, 310],
      [1284, 310],
      [1264, 196],
      [1254, 196],
    ],
    iron,
  );
  c.fillStyle = '#6b3c2c';
  c.fillRect(1430, 296, 84, 74);
  for (let k = 0; k < 3; k++)
    line(
      c,
      [
        [1430, 314 + 20 * k],
        [1514, 314 + 20 * k],
      ],
      3,
      '#3c241c',
    );
  c.fillStyle = fade(c, 380, 500, [
    [0, '#c58a35'],
    [1, '#8c5a22'],
  ]);
  c.fillRect(1200, 384, 150, 112);
  c.fillStyle = '#2a3a42';
  c.fillRect(1212, 396, 56, 52);
  c.fillStyle = 'rgba(255,226,160,0.65)';
  shape(
    c,
    [
      [1214, 446],
      [1240, 398],
      [1262, 398],
      [1236, 446],
    ],
    'rgba(255,226,160,0.55)',
  );
  letters(c, '7', 1296, 402, 40, '#fff2cf');
  line(
    c,
    [
      [1200, 384],
      [1350, 384],
    ],
    6,
    '#f0c878',
  );
  line(
    c,
    [
      [724, 100],
      [724, 470],
    ],
    4,
    '#2a2f31',
  );
  line(
    c,
    [
      [738, 104],
      [738, 470],
    ],
    4,
    '#2a2f31',
  );
  disc(c, 731, 100, 20, '#2c373c');
  disc(c, 731, 100, 9, '#c8a05a');
  c.fillStyle = '#c58a35';
  c.fillRect(708, 462, 46, 54);
  c.fillStyle = '#31261e';
  c.fillRect(708, 482, 46, 12);
  disc(c, 731, 488, 11, '#f4ead0');
  shape(
    c,
    [
      [731, 478],
      [740, 493],
      [722, 493],
    ],
    '#8f3023',
  );
  c.lineWidth = 8;
  c.strokeStyle = '#2a2f31';
  c.beginPath();
  c.arc(731, 534, 15, -Math.PI / 2, Math.PI * 0.9);
  c.stroke();
  // The crane driver's plate: the best place there is to put a box on.
  c.fillStyle = '#f2ead2';
  c.fillRect(1216, 560, 88, 64);
  c.fillStyle = '#1f2a30';
  c.fillRect(1222, 566, 38, 26);
  c.fillRect(1266, 592, 32, 26);
  disc(c, 1282, 579, 9, '#b4442e');
  disc(c, 1240, 605, 9, '#2f6a63');
  // Crates, barrels, a lamp.
  const crate = (x: number, y: number, size: number, hue: number): void => {
    c.fillStyle = `hsl(${hue} 36% 42%)`;
    c.fillRect(x, y, size, size);
    for (let k = 0; k < 5; k++) {
      c.fillStyle = `hsl(${hue} 36% ${40 + random() * 16}%)`;
      c.fillRect(x + 4, y + 4 + (k * (size - 8)) / 5, size - 8, (size - 8) / 5 - 3);
    }
    line(
      c,
      [
        [x + 8, y + 8],
        [x + size - 8, y + size - 8],
      ],
      11,
      `hsl(${hue} 34% 34%)`,
    );
    c.lineWidth = 10;
    c.strokeStyle = `hsl(${hue} 34% 58%)`;
    c.strokeRect(x + 5, y + 5, size - 10, size - 10);
    for (const [i, j] of [
      [9, 9],
      [size - 9, 9],
      [9, size - 9],
      [size - 9, size - 9],
    ])
      disc(c, x + i, y + j, 3, '#2c2018');
  };
  crate(1690, 668, 132, 31);
  crate(1830, 668, 132, 26);
  crate(1756, 546, 122, 35);
  letters(c, 'ILSE', 1776, 592, 26, '#31261e');
  for (const [x, top] of [
    [560, 690],
    [636, 700],
  ] as const) {
    c.fillStyle = across(c, x, x + 74, [
      [0, '#a9713f'],
      [0.35, '#8a5730'],
      [1, '#3e281b'],
    ]);
    c.beginPath();
    c.roundRect(x, top, 74, 110, 14);
    c.fill();
    for (const k of [16, 52, 88])
      line(
        c,
        [
          [x, top + k],
          [x + 74, top + k],
        ],
        6,
        '#3a3632',
      );
  }
  line(
    c,
    [
      [2140, 800],
      [2140, 330],
    ],
    14,
    '#2b3236',
  );
  line(
    c,
    [
      [2136, 800],
      [2136, 330],
    ],
    3,
    '#8d9a98',
  );
  shape(
    c,
    [
      [2108, 330],
      [2172, 330],
      [2160, 268],
      [2120, 268],
    ],
    '#ffdf9c',
  );
  line(
    c,
    [
      [2108, 330],
      [2120, 268],
      [2160, 268],
      [2172, 330],
      [2108, 330],
    ],
    5,
    '#2b3236',
  );
  shape(
    c,
    [
      [2110, 268],
      [2140, 238],
      [2170, 268],
    ],
    '#2b3236',
  );
  // Late sun from the right: long shadows towards us on the floor.
  c.globalAlpha = 0.3;
  shape(
    c,
    [
      [1130, 820],
      [1390, 820],
      [1180, 1120],
      [760, 1120],
    ],
    '#2c2430',
  );
  shape(
    c,
    [
      [1690, 800],
      [1962, 800],
      [1770, 1120],
      [1400, 1120],
    ],
    '#2c2430',
  );
  c.globalAlpha = 1;
  weather(c, 64, 0.34, 17);
}

function cobbles(c: Context): void {
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

function bollards(c: Context): void {
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

function drifting(name: string, speed: number, seed: number, tint: string): Layer {
  return {
    name,
    factor: 0.5,
    pictures: [picture(2700, 410, ripples(seed, tint))],
    worldFromLayer: (t) => [
      1,
      0,
      -1350 + speed * (t - seconds / 2),
      0,
      1,
      -34 + 2 * Math.sin(1.7 * t + seed),
      0,
      0,
      1,
    ],
  };
}

const ferryLayer = (): Layer => ({
  name: 'ferry',
  factor: 0.6,
  pictures: [picture(520, 200, ferry)],
  worldFromLayer: (t) =>
    similarityMatrix(
      {
        x: -660 + 26 * t,
        y: -120 + 2.4 * Math.sin(1.3 * t),
        rotation: 0.006 * Math.sin(0.9 * t + 1),
        scale: 1,
      },
      { x: 260, y: 170 },
    ),
});

/** The river quay at the golden hour: a slow pan over bollards, a crane and far houses. */
export function quay(): Scene {
  return {
    name: 'quay',
    title: 'Quay',
    frameRate,
    frames,
    layers: [
      still('bollards', 1.45, [-1360, 205, 2720, 370], bollards),
      still('cobbles', 1.25, [-1350, 316, 2700, 340], cobbles),
      still('crane', 1, [-1240, -560, 2480, 1125], crane),
      ferryLayer(),
      drifting('near ripples', 9, 3, '#ffe2a8'),
      drifting('far ripples', -7, 4, '#2f4650'),
      still('water', 0.5, [-1180, -44, 2360, 480], water),
      still('far bank', 0.35, [-1110, -330, 2220, 340], farBank),
      still('sky', 0.05, [-1100, -620, 2200, 700], sky),
    ],
    features: [
      { name: 'plate', layer: 'crane', x: 1263, y: 592 },
      { name: 'cabin', layer: 'crane', x: 1306, y: 422 },
      { name: 'hook', layer: 'crane', x: 731, y: 488 },
      { name: 'crate', layer: 'crane', x: 1824, y: 676 },
      { name: 'sign', layer: 'crane', x: 390, y: 425 },
      { name: 'lamp', layer: 'crane', x: 2140, y: 300 },
      { name: 'church clock', layer: 'far bank', x: 1321, y: 160 },
      { name: 'bollard', layer: 'bollards', x: 1010, y: 197 },
    ],
    camera: handHeld(pan),
    gain: (t) => 1 + 0.035 * Math.sin(2 * Math.PI * 0.13 * t + 0.8),
    grain: 2,
    sound: quaySound,
  };
}
