import { across, disc, line, shape, weather, type Context } from '../paint.js';

/** In the walker's picture: where the hand holds the lantern's ring. */
export const hand = { x: 300, y: 262 };

/** Face and hat, as they are drawn below: the corners about them. */
export const head: [x: number, y: number][] = [
  [146, 36],
  [208, 36],
  [234, 82],
  [207, 108],
  [198, 135],
  [176, 146],
  [154, 135],
  [145, 108],
  [122, 82],
];

/** Someone who walks, at a moment of the cycle of two steps, 0 … 1. */
export function walker(phase: number): (c: Context) => void {
  return (c) => {
    const swing = Math.sin(2 * Math.PI * phase);
    const limb = (
      x: number,
      y: number,
      angle: number,
      long: number,
      bend: number,
      wide: number,
      colour: string,
    ): [number, number] => {
      const kx = x + Math.sin(angle) * long;
      const ky = y + Math.cos(angle) * long;
      const fx = kx + Math.sin(angle - bend) * long;
      const fy = ky + Math.cos(angle - bend) * long;
      c.lineCap = 'round';
      c.lineJoin = 'round';
      line(
        c,
        [
          [x, y],
          [kx, ky],
          [fx, fy],
        ],
        wide,
        colour,
      );
      return [fx, fy];
    };
    const leg = (angle: number, colour: string): void => {
      const bend = 0.15 + 0.55 * Math.max(0, -Math.cos(2 * Math.PI * phase) * Math.sign(angle));
      const [fx, fy] = limb(168, 352, angle, 96, bend, 40, colour);
      shape(
        c,
        [
          [fx - 18, fy + 18],
          [fx - 14, fy - 12],
          [fx + 18, fy - 8],
          [fx + 42, fy + 10],
          [fx + 42, fy + 18],
        ],
        '#14110f',
      );
    };
    leg(-0.5 * swing, '#1a1f2a');
    limb(160, 178, 0.5 * swing, 62, -0.3, 30, '#3a2f2c');
    leg(0.5 * swing, '#252c3a');
    // Coat, belt, scarf, head, hat.
    shape(
      c,
      [
        [128, 160],
        [204, 156],
        [222, 300],
        [232, 400],
        [176, 416],
        [108, 400],
        [118, 290],
      ],
      across(c, 110, 232, [
        [0, '#2a2322'],
        [0.55, '#5a3f34'],
        [1, '#a8754c'],
      ]),
    );
    c.fillStyle = '#241a16';
    c.fillRect(116, 288, 110, 16);
    c.fillStyle = '#caa25c';
    c.fillRect(190, 286, 18, 20);
    for (let k = 0; k < 4; k++) disc(c, 206, 186 + 26 * k, 5, '#d6b06c');
    c.fillStyle = '#7b2f2b';
    c.beginPath();
    c.roundRect(136, 138, 74, 28, 12);
    c.fill();
    c.fillStyle = '#93453a';
    c.fillRect(140, 160, 24, 66);
    c.fillStyle = across(c, 146, 206, [
      [0, '#7d5644'],
      [1, '#e2ab7c'],
    ]);
    c.beginPath();
    c.ellipse(176, 108, 31, 38, 0, 0, 2 * Math.PI);
    c.fill();
    disc(c, 196, 104, 3.5, '#2b1d18');
    shape(
      c,
      [
        [204, 106],
        [216, 120],
        [203, 122],
      ],
      '#d69a6e',
    );
    c.fillStyle = '#2c2723';
    c.beginPath();
    c.ellipse(178, 82, 56, 12, 0.04, 0, 2 * Math.PI);
    c.fill();
    c.beginPath();
    c.roundRect(146, 36, 62, 46, 14);
    c.fill();
    c.fillStyle = '#7b5b34';
    c.fillRect(146, 68, 62, 9);
    // The arm that holds the lantern out.
    c.lineCap = 'round';
    line(
      c,
      [
        [182, 182],
        [240, 250],
        [hand.x, hand.y - 4],
      ],
      34,
      '#6d4c3b',
    );
    line(
      c,
      [
        [182, 176],
        [242, 244],
        [hand.x - 4, hand.y - 14],
      ],
      8,
      '#b98757',
    );
    disc(c, hand.x, hand.y, 16, '#e2ab7c');
    weather(c, 12, 0.2, 24);
  };
}
