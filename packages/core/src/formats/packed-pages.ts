/** A page of a record's packed data and its number. */
export interface PackedPage<Bytes extends Uint8Array = Uint8Array> {
  page: number;
  bytes: Bytes;
}

const head = 8;

/** Pages one after another, each after its number and its length, 32 bits each, little-endian. */
export function joinPages(pages: readonly PackedPage[]): Uint8Array {
  const joined = new Uint8Array(pages.reduce((sum, { bytes }) => sum + head + bytes.length, 0));
  const view = new DataView(joined.buffer);
  let at = 0;
  for (const { page, bytes } of pages) {
    view.setUint32(at, page, true);
    view.setUint32(at + 4, bytes.length, true);
    joined.set(bytes, at + head);
    at += head + bytes.length;
  }
  return joined;
}

/** Reads what `joinPages` wrote, without a copy; null where it is something else. */
export function splitPages<Bytes extends Uint8Array>(joined: Bytes): PackedPage<Bytes>[] | null {
  const view = new DataView(joined.buffer, joined.byteOffset, joined.byteLength);
  const pages: PackedPage<Bytes>[] = [];
  let at = 0;
  while (at + head <= joined.length) {
    const [page, length] = [view.getUint32(at, true), view.getUint32(at + 4, true)];
    at += head;
    if (at + length > joined.length) return null;
    pages.push({ page, bytes: joined.subarray(at, at + length) as Bytes });
    at += length;
  }
  return at === joined.length ? pages : null;
}
