import { kernelHeap, makeKernelMemory } from './kernels.js';

type Call = (...args: number[]) => number;

/** Everything starts on a whole cache line. */
const line = 64;

/**
 * The kernels of tracking on a memory of their own, which grows as it is asked for. Addresses are byte
 * offsets. One thread uses it at a time.
 */
export class TrackKernels {
  readonly halvePlane: Call;
  readonly packTemplate: Call;
  readonly correlate: Call;
  readonly quantise: Call;
  readonly samplePatch: Call;
  readonly sampleRuns: Call;
  readonly moments: Call;
  readonly medianResidual: Call;
  readonly gather: Call;
  readonly blockSums: Call;
  readonly descend: Call;
  readonly flow: Call;
  readonly cornerCells: Call;
  readonly windowTexture: Call;
  private readonly memory = makeKernelMemory(1 << 20);
  private readonly spare = new Map<number, number[]>();
  private readonly blocks = new Map<string, { at: number; bytes: number }>();
  private top = kernelHeap;
  private all: Uint8Array;
  private singles: Float32Array;
  private doubles: Float64Array;

  constructor(module: WebAssembly.Module) {
    const { memory } = this;
    const abort = (): never => {
      throw new Error('A tracking kernel stopped: it was given an address outside its memory.');
    };
    const { exports } = new WebAssembly.Instance(module, { env: { memory, abort } });
    this.halvePlane = exports.halvePlane as Call;
    this.packTemplate = exports.packTemplate as Call;
    this.correlate = exports.correlate as Call;
    this.quantise = exports.quantise as Call;
    this.samplePatch = exports.samplePatch as Call;
    this.sampleRuns = exports.sampleRuns as Call;
    this.moments = exports.moments as Call;
    this.medianResidual = exports.medianResidual as Call;
    this.gather = exports.gather as Call;
    this.blockSums = exports.blockSums as Call;
    this.descend = exports.descend as Call;
    this.flow = exports.flow as Call;
    this.cornerCells = exports.cornerCells as Call;
    this.windowTexture = exports.windowTexture as Call;
    this.all = new Uint8Array(memory.buffer);
    this.singles = new Float32Array(memory.buffer);
    this.doubles = new Float64Array(memory.buffer);
  }

  /** Room for so many bytes, kept until it is freed. 64 bytes beyond it may be read. */
  alloc(bytes: number): number {
    const size = (bytes + line - 1) & -line;
    const free = this.spare.get(size)?.pop();
    if (free !== undefined) return free;
    const at = this.top;
    this.top += size;
    const missing = this.top + line - this.all.length;
    if (missing > 0) {
      // A quarter more than needed, so that growing stays rare.
      this.memory.grow(Math.ceil((missing + this.top / 4) / 65536));
      const { buffer } = this.memory;
      this.all = new Uint8Array(buffer);
      this.singles = new Float32Array(buffer);
      this.doubles = new Float64Array(buffer);
    }
    return at;
  }

  free(at: number, bytes: number): void {
    const size = (bytes + line - 1) & -line;
    const list = this.spare.get(size);
    if (list) list.push(at);
    else this.spare.set(size, [at]);
  }

  /** A named piece of working room, at least so large, that whoever runs next may overwrite. */
  scratch(name: string, bytes: number): number {
    const block = this.blocks.get(name);
    if (block && block.bytes >= bytes) return block.at;
    if (block) this.free(block.at, block.bytes);
    const at = this.alloc(bytes);
    this.blocks.set(name, { at, bytes });
    return at;
  }

  /** Views hold only until the next `alloc` or `room`. */
  bytes(at: number, length: number): Uint8Array {
    return this.all.subarray(at, at + length);
  }

  floats(at: number, length: number): Float32Array {
    return this.singles.subarray(at >> 2, (at >> 2) + length);
  }

  doublesAt(at: number, length: number): Float64Array {
    return this.doubles.subarray(at >> 3, (at >> 3) + length);
  }

  /** The whole memory as doubles: index by address / 8. */
  double(at: number, index: number): number {
    return this.doubles[(at >> 3) + index];
  }

  /** A copy of so many doubles, as a plain array: typed ones of more than a few numbers are slow to come by. */
  takeDoubles(at: number, count: number): number[] {
    const { doubles } = this;
    const taken: number[] = [];
    for (let i = at >> 3, end = i + count; i < end; i++) taken.push(doubles[i]);
    return taken;
  }

  /** Puts doubles in, each of them `times` as large. */
  putDoubles(at: number, values: ArrayLike<number>, times = 1): void {
    // One by one: for the few there are, that is faster than `set`.
    const { doubles } = this;
    for (let i = 0, to = at >> 3; i < values.length; i++, to++) doubles[to] = times * values[i];
  }

  /** As 32-bit integers: what tables of addresses and sizes are made of. */
  putIntegers(at: number, values: ArrayLike<number>): void {
    new Int32Array(this.all.buffer, at, values.length).set(values);
  }

  copyWithin(to: number, from: number, length: number): void {
    this.all.copyWithin(to, from, from + length);
  }

  /** Copies rows of a plane in, row by row, without a view for each. */
  copyIn(at: number, source: Uint8Array, from: number, length: number): void {
    const { all } = this;
    if (length > 48) {
      all.set(source.subarray(from, from + length), at);
      return;
    }
    for (let i = 0; i < length; i++) all[at + i] = source[from + i];
  }

  fill(at: number, length: number, value: number): void {
    this.all.fill(value, at, at + length);
  }
}
