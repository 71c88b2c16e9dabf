/** Frames about a moment between 0 and 1, through which a polynomial is laid (Lagrange). */
const nodes = [-3, -2, -1, 0, 1, 2, 3, 4];

/**
 * The frames, and their weights, that a moment between frames is taken from. Low orders take fast shake for slower. At the
 * ends the frames are not about the moment, but beside it.
 */
export class BetweenFrames {
  /** The first of the frames; the others follow it. */
  from = 0;
  readonly weights = new Float64Array(nodes.length);

  /** Frames from `first` up to `last` are there: at least as many as there are weights. */
  constructor(
    private readonly first: number,
    private readonly last: number,
  ) {}

  static readonly fewest = nodes.length;

  /** Sets out for `tau` of a frame after `frame`. */
  seek(frame: number, tau: number): void {
    const base = Math.min(
      Math.max(tau < 0 ? frame - 1 : frame, this.first - nodes[0]),
      this.last - nodes[nodes.length - 1],
    );
    this.from = base + nodes[0];
    const t = frame + tau - base;
    nodes.forEach((node, i) => {
      let weight = 1;
      for (const other of nodes) if (other !== node) weight *= (t - other) / (node - other);
      this.weights[i] = weight;
    });
  }
}
