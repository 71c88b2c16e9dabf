import { EncodedPacketSink, Input, MP4, UrlSource, type EncodedPacket } from 'mediabunny';

/** A decoded picture: planes Y, U, V one after another, without padding. */
export interface Picture {
  data: Uint8Array<ArrayBuffer>;
  width: number;
  height: number;
}

/** Enough for a few seconds about the playhead; the whole page is to stay small on long clips. */
const cacheBytes = 64e6;

/**
 * The proxy's frames by number. A whole group of pictures is decoded per miss and kept; the next one in the
 * direction of travel is fetched ahead.
 */
export class FrameSource {
  /** Per frame, the number of the key frame it is decoded from. */
  private readonly keyOf: number[] = [];
  private readonly times: number[] = [];
  private readonly cache = new Map<number, Picture>();
  private readonly spare: Uint8Array<ArrayBuffer>[] = [];
  private readonly pending = new Map<number, Promise<void>>();
  private queue: Promise<void> = Promise.resolve();
  /** Told when a frame has been decoded, before the rest of its group is. */
  private readonly arrivals = new Map<number, () => void>();
  private decoder: VideoDecoder | null = null;
  private output: (decoded: VideoFrame) => void = (decoded) => decoded.close();
  private direction = 1;
  private lastWanted = 0;

  private constructor(
    private readonly sink: EncodedPacketSink,
    private readonly config: VideoDecoderConfig,
  ) {}

  static async open(url: string): Promise<FrameSource> {
    const input = new Input({ source: new UrlSource(url), formats: [MP4] });
    const track = await input.getPrimaryVideoTrack();
    const config = await track?.getDecoderConfig();
    if (!track || !config) throw new Error('The proxy holds no picture.');
    const source = new FrameSource(new EncodedPacketSink(track), config);
    let key = 0;
    for await (const packet of source.sink.packets(undefined, undefined, { metadataOnly: true })) {
      if (packet.type === 'key') key = source.times.length;
      source.keyOf.push(key);
      source.times.push(packet.timestamp);
    }
    return source;
  }

  get frames(): number {
    return this.times.length;
  }

  /** The picture, decoded if need be. Null when its group was given up. */
  async get(frame: number): Promise<Picture | null> {
    const stride = Math.abs(frame - this.lastWanted);
    if (stride > 0) this.direction = frame > this.lastWanted ? 1 : -1;
    this.lastWanted = frame;
    if (!this.cache.has(frame)) {
      const arrival = new Promise<void>((resolve) => this.arrivals.set(frame, resolve));
      await Promise.race([arrival, this.load(this.keyOf[frame])]);
      this.arrivals.delete(frame);
    }
    // After a leap nobody knows what comes next; the decoder stays free for it.
    if (stride <= 12) this.prefetch(frame);
    const picture = this.cache.get(frame) ?? null;
    if (!picture && frame === this.lastWanted)
      throw new Error(`Frame ${frame} of the proxy cannot be decoded.`);
    return picture;
  }

  /** A picture near the one that is looked at, which stays where the person is; null when it cannot be had. */
  async beside(frame: number): Promise<Picture | null> {
    if (!this.cache.has(frame)) await this.load(this.keyOf[frame]).catch(() => undefined);
    return this.cache.get(frame) ?? null;
  }

  /** Fetches what comes next in the direction of travel. */
  private prefetch(frame: number): void {
    const key = this.keyOf[frame];
    const ahead = this.direction > 0 ? this.nextKey(key) : key > 0 ? this.keyOf[key - 1] : -1;
    if (ahead >= 0 && ahead < this.frames && !this.cache.has(ahead))
      void this.load(ahead).catch(() => undefined);
  }

  private nextKey(key: number): number {
    let frame = key;
    while (frame < this.frames && this.keyOf[frame] === key) frame++;
    return frame;
  }

  private load(key: number): Promise<void> {
    const known = this.pending.get(key);
    if (known) return known;
    // One decoder at a time: the wanted group is not slowed down by others.
    const loading = this.queue.then(() => this.decode(key)).finally(() => this.pending.delete(key));
    this.pending.set(key, loading);
    this.queue = loading.catch(() => undefined);
    return loading;
  }

  private async decode(key: number): Promise<void> {
    // Asked for long ago and passed by since: not worth the work any more.
    if (Math.abs(this.lastWanted - key) > 60) return;
    const end = this.nextKey(key);
    const copies: Promise<void>[] = [];
    let frame = key;
    this.output = (decoded) => copies.push(this.keep(frame++, decoded));
    const decoder = this.ready();
    let packet: EncodedPacket | null = await this.sink.getPacket(this.times[key]);
    for (let i = key; i < end && packet; i++) {
      decoder.decode(packet.toEncodedVideoChunk());
      packet = i + 1 < end ? await this.sink.getNextPacket(packet) : null;
    }
    await decoder.flush();
    await Promise.all(copies);
  }

  /** One decoder serves all groups, one after another; after a failure a new one is made. */
  private ready(): VideoDecoder {
    if (!this.decoder || this.decoder.state === 'closed') {
      // What goes wrong comes out of `flush` as well, which is waited for.
      this.decoder = new VideoDecoder({ output: (decoded) => this.output(decoded), error: () => undefined });
      this.decoder.configure({ ...this.config, optimizeForLatency: true });
    }
    return this.decoder;
  }

  private async keep(frame: number, decoded: VideoFrame): Promise<void> {
    const { width, height } = decoded.visibleRect ?? {
      width: decoded.codedWidth,
      height: decoded.codedHeight,
    };
    const bytes = decoded.allocationSize();
    const data = this.spare.pop() ?? new Uint8Array(bytes);
    const buffer = data.byteLength === bytes ? data : new Uint8Array(bytes);
    const layout = await decoded.copyTo(buffer);
    const planar = decoded.format === 'NV12' ? separate(buffer, width, height, layout) : buffer;
    decoded.close();
    this.cache.set(frame, { data: planar, width, height });
    this.arrivals.get(frame)?.();
    this.trim(bytes);
  }

  /** Lets go of the frames farthest from where the person is. */
  private trim(bytes: number): void {
    const room = Math.max(48, Math.floor(cacheBytes / bytes));
    while (this.cache.size > room) {
      let farthest = -1;
      for (const frame of this.cache.keys()) {
        if (farthest < 0 || Math.abs(frame - this.lastWanted) > Math.abs(farthest - this.lastWanted))
          farthest = frame;
      }
      const picture = this.cache.get(farthest);
      this.cache.delete(farthest);
      if (picture && this.spare.length < 10) this.spare.push(picture.data);
    }
  }
}

/** Hardware decoders weave U and V; the painter wants them apart. */
function separate(
  woven: Uint8Array,
  width: number,
  height: number,
  layout: PlaneLayout[],
): Uint8Array<ArrayBuffer> {
  const half = { width: (width + 1) >> 1, height: (height + 1) >> 1 };
  const size = half.width * half.height;
  const planar = new Uint8Array(width * height + 2 * size);
  for (let y = 0; y < height; y++) {
    const from = layout[0].offset + y * layout[0].stride;
    planar.set(woven.subarray(from, from + width), y * width);
  }
  for (let y = 0; y < half.height; y++) {
    for (let x = 0; x < half.width; x++) {
      const from = layout[1].offset + y * layout[1].stride + 2 * x;
      const to = width * height + y * half.width + x;
      planar[to] = woven[from];
      planar[to + size] = woven[from + 1];
    }
  }
  return planar;
}
