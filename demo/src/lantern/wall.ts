import { crown, disc, fade, letters, line, shape, stones, weather, type Context } from '../paint.js';
import { randomFrom } from '../random.js';

export function wall(c: Context): void {
  const random = randomFrom(21);
  c.fillStyle = '#1a222c';
  c.fillRect(0, 300, 2440, 330);
  stones(c, [0, 300, 2440, 320], {
    course: 40,
    length: 96,
    random,
    colour: (v) => `hsl(${208 + v * 20} ${12 + v * 6}% ${24 + v * 17}%)`,
  });
  stones(c, [0, 268, 2440, 36], {
    course: 36,
    length: 170,
    random,
    colour: (v) => `hsl(212 12% ${40 + v * 14}%)`,
  });
  for (let i = 0; i < 220; i++) {
    const x = random() * 2440;
    crown(c, x, 268 + random() * 26, 8 + random() * 16, {
      random,
      dark: '#1e3a2c',
      light: '#4a6c4a',
      leaf: 3,
    });
  }
  // The ferry's notice board, a ring, a milestone, a gate.
  c.fillStyle = '#33261d';
  c.fillRect(1560, 316, 270, 190);
  c.fillStyle = '#c9bf9f';
  c.fillRect(1574, 330, 242, 162);
  c.fillStyle = '#22384a';
  c.fillRect(1574, 330, 242, 46);
  letters(c, 'FERRY', 1616, 341, 25, '#efe3bd');
  for (let k = 0; k < 5; k++) {
    c.fillStyle = '#42474a';
    c.fillRect(1590, 392 + k * 18, 100 + ((k * 53) % 60), 6);
    c.fillRect(1772, 392 + k * 18, 28, 6);
  }
  disc(c, 1582, 338, 4, '#7a3a2c');
  disc(c, 1808, 338, 4, '#7a3a2c');
  c.lineWidth = 9;
  c.strokeStyle = '#10151a';
  c.beginPath();
  c.arc(1240, 420, 26, 0, 2 * Math.PI);
  c.stroke();
  c.fillStyle = '#0f1418';
  c.fillRect(1228, 380, 24, 20);
  line(
    c,
    [
      [1217, 410],
      [1221, 432],
    ],
    3,
    '#8fa2ae',
  );
  shape(
    c,
    [
      [760, 640],
      [768, 470],
      [800, 446],
      [832, 470],
      [840, 640],
    ],
    fade(c, 446, 640, [
      [0, '#a9b1ae'],
      [1, '#6d777b'],
    ]),
  );
  letters(c, '12', 780, 494, 34, '#20282e');
  line(
    c,
    [
      [778, 548],
      [824, 548],
    ],
    5,
    '#20282e',
  );
  c.fillStyle = '#1a130f';
  c.fillRect(270, 250, 190, 380);
  for (let k = 0; k < 6; k++) {
    c.fillStyle = `hsl(26 30% ${17 + 5 * random()}%)`;
    c.fillRect(280 + k * 30, 262, 26, 368);
  }
  c.fillStyle = '#4a4238';
  c.fillRect(276, 320, 178, 16);
  c.fillRect(276, 540, 178, 16);
  disc(c, 438, 440, 9, '#b98f4b');
  // The path.
  c.fillStyle = fade(c, 620, 1140, [
    [0, '#2b3138'],
    [1, '#171d24'],
  ]);
  c.fillRect(0, 620, 2440, 520);
  for (let y = 632, row = 0; y < 1140; row++) {
    const tall = 26 + row * 9;
    for (let x = -random() * 150; x < 2440;) {
      const w = (110 + row * 14) * (0.7 + 0.6 * random());
      const v = random();
      c.fillStyle = `hsl(${212 + v * 14} ${9 + v * 6}% ${21 + v * 13}%)`;
      c.beginPath();
      c.roundRect(x + 3, y + 3, w - 6, tall - 6, 12);
      c.fill();
      line(
        c,
        [
          [x + 14, y + 5],
          [x + w - 14, y + 5],
        ],
        2,
        'rgba(190,215,240,0.16)',
      );
      x += w;
    }
    y += tall;
  }
  weather(c, 24, 0.3, 18);
}
