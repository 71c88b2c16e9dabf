import { multiply, similarityMatrix, translation, type Mat3 } from '@lurn/core';
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
import { lanternSound } from './sound.js';

const frames = 240;
const frameRate = { numerator: 25, denominator: 1 };
const seconds = frames / 25;
const stepsASecond = 1.7;
/** Pictures in one cycle of two steps. */
const poses = 16;

function sky(c: Context): void {
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

function village(c: Context): void {
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

function trees(c: Context): void {
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

function wall(c: Context): void {
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

/** How far along the walk, 0 … 1, easing in and out a little. */
const along = (t: number): number => Math.min(Math.max(t / seconds, -0.05), 1.05);

/** Growing as it comes nearer. */
const size = (t: number): number => 1 + 0.35 * along(t);

const ground = 250;

function walkerMatrix(t: number): Mat3 {
  const s = along(t);
  const step = Math.abs(Math.sin(Math.PI * stepsASecond * t));
  const scale = size(t);
  return multiply(
    similarityMatrix(
      {
        x: -460 + 860 * s,
        y: ground - 5 * step + 20 * s,
        rotation: 0.012 * Math.sin(Math.PI * stepsASecond * t),
        scale,
      },
      { x: 0, y: 0 },
    ),
    translation(-170, -560),
  );
}

/** In the walker's picture: where the hand holds the lantern's ring. */
const hand = { x: 300, y: 262 };

function lanternMatrix(t: number): Mat3 {
  const swing = 0.21 * Math.sin(2 * Math.PI * 0.31 * t + 0.4) + 0.035 * Math.sin(2 * Math.PI * 0.85 * t);
  return multiply(
    walkerMatrix(t),
    multiply(
      translation(hand.x, hand.y),
      multiply(
        similarityMatrix({ x: 0, y: 0, rotation: swing, scale: 1 }, { x: 0, y: 0 }),
        translation(-80, -14),
      ),
    ),
  );
}

function walker(phase: number): (c: Context) => void {
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

function lamp(c: Context): void {
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

function reeds(c: Context): void {
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

const glowSize = 1100;

function glow(c: Context): void {
  const h = glowSize / 2;
  halo(c, h, h, h, [
    [0, 'rgba(255,190,96,0.5)'],
    [0.12, 'rgba(255,176,84,0.3)'],
    [0.4, 'rgba(240,140,60,0.1)'],
    [1, 'rgba(200,110,50,0)'],
  ]);
}

/** Someone carries a lantern along a wall by night, turning and growing a little, while the camera shakes. */
export function lantern(): Scene {
  const walking: Layer = {
    name: 'walker',
    factor: 1.1,
    pictures: Array.from({ length: poses }, (_, i) => picture(350, 600, walker(i / poses))),
    worldFromLayer: walkerMatrix,
    pictureAt: (t) => ((Math.floor((t * stepsASecond * poses) / 2) % poses) + poses) % poses,
  };
  return {
    name: 'lantern',
    title: 'Lantern',
    frameRate,
    frames,
    layers: [
      still('reeds', 1.6, [-1420, 240, 2840, 400], reeds),
      {
        name: 'glow',
        factor: 1.1,
        pictures: [picture(glowSize, glowSize, glow)],
        glows: true,
        worldFromLayer: (t) => multiply(lanternMatrix(t), translation(80 - glowSize / 2, 130 - glowSize / 2)),
      },
      { name: 'lantern', factor: 1.1, pictures: [picture(160, 206, lamp)], worldFromLayer: lanternMatrix },
      walking,
      still('wall', 1, [-1220, -520, 2440, 1140], wall),
      still('trees', 0.55, [-1140, -540, 2280, 650], trees),
      still('village', 0.3, [-1090, -330, 2180, 426], village),
      still('sky', 0.04, [-1080, -600, 2160, 760], sky),
    ],
    features: [
      { name: 'lantern band', layer: 'lantern', x: 80, y: 71 },
      { name: 'lantern foot', layer: 'lantern', x: 80, y: 184 },
      { name: 'board', layer: 'wall', x: 1694, y: 352 },
      { name: 'ring', layer: 'wall', x: 1240, y: 392 },
      { name: 'milestone', layer: 'wall', x: 800, y: 512 },
      { name: 'gate', layer: 'wall', x: 438, y: 440 },
    ],
    camera: handHeld((t) => ({ x: 10 * Math.sin(0.5 * t), y: 0 }), 1.15, 37),
    gain: (t) => 1 + 0.03 * Math.sin(2 * Math.PI * 0.21 * t),
    grain: 2,
    sound: lanternSound(stepsASecond),
  };
}
