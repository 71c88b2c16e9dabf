import { disc, fade, letters, line, shape, weather, type Context } from '../paint.js';
import { randomFrom } from '../random.js';

export function ferry(c: Context): void {
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
