// Raw pictures with a timestamp each, for the encoder's standard input: the least Matroska (RFC 9559) that ffmpeg
// takes. Plain raw video has no timestamps, so that clips of variable rate could not keep theirs.

/** Codes that planar pictures go by in ffmpeg's readers. */
const fourcc: Record<string, string> = {
  yuv420p: 'I420',
  yuv422p: 'Y42B',
  yuv444p: '444P',
  yuvj420p: 'I420',
  yuvj422p: 'Y42B',
  yuvj444p: '444P',
  yuv420p10le: 'Y3\x0b\x0a',
  yuv422p10le: 'Y3\x0a\x0a',
  yuv444p10le: 'Y3\x00\x0a',
  yuv420p12le: 'Y3\x0b\x0c',
  yuv422p12le: 'Y3\x0a\x0c',
  yuv444p12le: 'Y3\x00\x0c',
  yuva420p: 'Y4\x0b\x08',
  yuva422p: 'Y4\x0a\x08',
  yuva444p: 'Y4\x00\x08',
  yuva420p10le: 'Y4\x0b\x0a',
  yuva422p10le: 'Y4\x0a\x0a',
  yuva444p10le: 'Y4\x00\x0a',
};

const id = {
  head: 0x1a45dfa3,
  docType: 0x4282,
  segment: 0x18538067,
  info: 0x1549a966,
  scale: 0x2ad7b1,
  tracks: 0x1654ae6b,
  track: 0xae,
  number: 0xd7,
  uid: 0x73c5,
  type: 0x83,
  codec: 0x86,
  video: 0xe0,
  width: 0xb0,
  height: 0xba,
  colour: 0x2eb524,
  cluster: 0x1f43b675,
  time: 0xe7,
  block: 0xa3,
};

const unknownSize = Buffer.from([0x01, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff]);

function idBytes(value: number): Buffer {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32BE(value);
  return bytes.subarray(bytes.findIndex((b) => b !== 0));
}

/** A size in eight bytes. */
function sizeBytes(value: number): Buffer {
  const bytes = Buffer.alloc(8);
  bytes.writeBigUInt64BE(BigInt(value) | (1n << 56n));
  return bytes;
}

const element = (of: number, ...content: Buffer[]): Buffer => {
  const body = Buffer.concat(content);
  return Buffer.concat([idBytes(of), sizeBytes(body.length), body]);
};

function whole(value: number): Buffer {
  const bytes = Buffer.alloc(8);
  bytes.writeBigUInt64BE(BigInt(value));
  return bytes;
}

/** What comes before the first picture. */
export function streamHead(width: number, height: number, format: string): Buffer {
  const video = element(
    id.video,
    element(id.width, whole(width)),
    element(id.height, whole(height)),
    element(id.colour, Buffer.from(fourcc[format], 'latin1')),
  );
  const track = element(
    id.track,
    ...[element(id.number, whole(1)), element(id.uid, whole(1)), element(id.type, whole(1))],
    ...[element(id.codec, Buffer.from('V_UNCOMPRESSED')), video],
  );
  return Buffer.concat([
    element(id.head, element(id.docType, Buffer.from('matroska'))),
    ...[idBytes(id.segment), unknownSize],
    // Nanoseconds: finer than any clip's clock.
    element(id.info, element(id.scale, whole(1))),
    element(id.tracks, track),
  ]);
}

/** What comes before each picture of so many bytes: its time in seconds, 0 or later. */
export function pictureHead(seconds: number, bytes: number): Buffer {
  const time = element(id.time, whole(Math.round(seconds * 1e9)));
  // Track 1, no offset from the cluster's time, a key frame.
  const start = Buffer.from([0x81, 0, 0, 0x80]);
  const block = [idBytes(id.block), sizeBytes(start.length + bytes), start];
  const size = time.length + block.reduce((sum, b) => sum + b.length, 0) + bytes;
  return Buffer.concat([idBytes(id.cluster), sizeBytes(size), time, ...block]);
}
