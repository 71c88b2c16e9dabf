import { disc, fade, letters, line, shape, weather, type Context } from '../paint.js';

/** A steam launch with an awning, as wide as 620 and as high as 300. */
export function boat(c: Context): void {
  c.fillStyle = 'rgba(16,26,40,0.4)';
  c.beginPath();
  c.ellipse(310, 276, 296, 15, 0, 0, 2 * Math.PI);
  c.fill();
  shape(
    c,
    [
      [8, 196],
      [606, 206],
      [560, 276],
      [66, 276],
    ],
    fade(c, 196, 276, [
      [0, '#2f5a63'],
      [0.6, '#23434d'],
      [1, '#142730'],
    ]),
  );
  c.fillStyle = '#f1e3c0';
  c.fillRect(10, 192, 592, 11);
  for (const [x, y] of [
    [90, 100],
    [210, 100],
    [330, 100],
    [430, 100],
  ])
    line(
      c,
      [
        [x, y],
        [x, 194],
      ],
      5,
      '#5a4334',
    );
  // The awning in broad stripes.
  for (let i = 0; i < 12; i++) {
    c.fillStyle = i % 2 === 0 ? '#e9dcc0' : '#b5533c';
    c.fillRect(70 + i * 32, 82, 32, 24);
  }
  c.fillStyle = '#3f352d';
  c.fillRect(70, 104, 384, 5);
  c.fillStyle = fade(c, 20, 190, [
    [0, '#2b2d31'],
    [1, '#54565c'],
  ]);
  c.fillRect(478, 24, 34, 168);
  c.fillStyle = '#c9a04e';
  c.fillRect(474, 46, 42, 13);
  c.fillStyle = '#7d5c3f';
  c.fillRect(532, 140, 44, 54);
  disc(c, 554, 164, 11, '#9fc3cc');
  for (const [x, coat, hat] of [
    [134, '#7c3d34', '#2b2522'],
    [172, '#3b5470', '#c9ae7c'],
    [262, '#6b6a3c', '#3c2c22'],
    [298, '#874f63', '#e9dcc0'],
    [390, '#39424c', '#1e1c1b'],
  ] as const) {
    c.fillStyle = coat;
    c.beginPath();
    c.roundRect(x - 12, 146, 24, 50, 9);
    c.fill();
    disc(c, x, 134, 11, '#d2a584');
    c.fillStyle = hat;
    c.fillRect(x - 14, 122, 28, 6);
    c.fillRect(x - 8, 112, 16, 11);
  }
  for (let x = 60; x < 580; x += 74) disc(c, x, 224, 7, '#d8c48c');
  letters(c, 'ORIOLE', 400, 254, 22, '#f1e3c0');
  weather(c, 16, 0.3, 67);
}

/** A buoy with a lamp in a cage, 150 wide and 260 high. */
export const buoy =
  (colour: string) =>
  (c: Context): void => {
    shape(
      c,
      [
        [22, 250],
        [128, 250],
        [104, 150],
        [46, 150],
      ],
      fade(c, 150, 250, [
        [0, colour],
        [1, '#2b2522'],
      ]),
    );
    c.fillStyle = '#f1e3c0';
    c.fillRect(36, 186, 78, 18);
    for (const [x, to] of [
      [50, 66],
      [100, 84],
    ])
      line(
        c,
        [
          [x, 150],
          [to, 58],
        ],
        5,
        '#39424c',
      );
    for (const y of [76, 104, 130])
      line(
        c,
        [
          [75 - (y - 30) / 4, y],
          [75 + (y - 30) / 4, y],
        ],
        4,
        '#39424c',
      );
    c.fillStyle = '#39424c';
    c.fillRect(58, 50, 34, 10);
    disc(c, 75, 36, 16, '#ffd98a');
    disc(c, 70, 30, 6, '#fff6dc');
    weather(c, 12, 0.35, 71);
  };
