/** A page of packed data and its number. */
export interface PackedPage {
  page: number;
  bytes: Buffer;
}

const head = 8;

/** Pages one after another, each after its number and its length, 32 bits each, little-endian. */
export const joinPages = (pages: readonly PackedPage[]): Buffer =>
  Buffer.concat(
    pages.flatMap(({ page, bytes }) => {
      const numbers = Buffer.alloc(head);
      numbers.writeUInt32LE(page, 0);
      numbers.writeUInt32LE(bytes.length, 4);
      return [numbers, bytes];
    }),
  );

/** Reads what `joinPages` wrote; null where it is something else. */
export function splitPages(joined: Buffer): PackedPage[] | null {
  const pages: PackedPage[] = [];
  let at = 0;
  while (at + head <= joined.length) {
    const [page, length] = [joined.readUInt32LE(at), joined.readUInt32LE(at + 4)];
    at += head;
    if (at + length > joined.length) return null;
    pages.push({ page, bytes: joined.subarray(at, at + length) });
    at += length;
  }
  return at === joined.length ? pages : null;
}
