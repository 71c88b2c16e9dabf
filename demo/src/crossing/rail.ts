import { disc, fade, letters, line, weather, type Context } from '../paint.js';

/** The rail of the ferry's deck, with a lifebuoy and a coil of rope: near, and passing fast. */
export function rail(c: Context): void {
  const [width, height] = [3700, 440];
  c.fillStyle = fade(c, 198, height, [
    [0, '#7d5c3f'],
    [1, '#4d3526'],
  ]);
  c.fillRect(0, 198, width, height - 198);
  for (let x = 0; x < width; x += 74)
    line(
      c,
      [
        [x, 200],
        [x - 40, height],
      ],
      3,
      'rgba(30,18,12,0.55)',
    );
  for (const y of [70, 190]) {
    c.fillStyle = fade(c, y - 9, y + 9, [
      [0, '#fbf6e6'],
      [0.5, '#d8cfb8'],
      [1, '#8c8474'],
    ]);
    c.fillRect(0, y - 9, width, 18);
  }
  for (let x = 60; x < width; x += 330) {
    c.fillStyle = fade(c, 20, height, [
      [0, '#f7f0dc'],
      [1, '#a2977f'],
    ]);
    c.beginPath();
    c.roundRect(x, 26, 34, 240, 9);
    c.fill();
    c.fillStyle = 'rgba(30,40,60,0.28)';
    c.fillRect(x + 23, 34, 9, 230);
    disc(c, x + 17, 26, 21, '#b5533c');
    disc(c, x + 12, 20, 7, 'rgba(255,240,220,0.6)');
    for (const y of [118, 244]) disc(c, x + 14, y, 5, '#6a6256');
  }
  for (const [x, name] of [
    [820, 'WITHY'],
    [2150, 'FERRY'],
    [3130, 'WITHY'],
  ] as const) {
    c.lineWidth = 34;
    c.strokeStyle = '#e8e2d2';
    c.beginPath();
    c.arc(x, 150, 68, 0, 2 * Math.PI);
    c.stroke();
    c.strokeStyle = '#c8442f';
    for (let quarter = 0; quarter < 4; quarter++) {
      c.beginPath();
      c.arc(x, 150, 68, quarter * (Math.PI / 2) + 0.25, quarter * (Math.PI / 2) + 0.85);
      c.stroke();
    }
    letters(c, name, x - 38, 157, 20, '#39424c');
  }
  for (let turn = 0; turn < 5; turn++) {
    c.lineWidth = 11;
    c.strokeStyle = turn % 2 === 0 ? '#c9ae7c' : '#a98f60';
    c.beginPath();
    c.ellipse(1480, 330 - 9 * turn, 84 - 5 * turn, 26, 0, 0, 2 * Math.PI);
    c.stroke();
  }
  weather(c, 24, 0.3, 61);
}
