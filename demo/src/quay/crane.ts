import { across, disc, fade, letters, line, shape, stones, weather, type Context } from '../paint.js';
import { randomFrom } from '../random.js';

export function crane(c: Context): void {
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
