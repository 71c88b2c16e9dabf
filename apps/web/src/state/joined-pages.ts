/** Pages of packed data that came joined: each after its number and its length, 32 bits each, little-endian. */
export function splitPages(joined: ArrayBuffer): { page: number; bytes: Uint8Array }[] {
  const view = new DataView(joined);
  const pages: { page: number; bytes: Uint8Array }[] = [];
  for (let at = 0; at + 8 <= view.byteLength;) {
    const [page, length] = [view.getUint32(at, true), view.getUint32(at + 4, true)];
    pages.push({ page, bytes: new Uint8Array(joined, at + 8, length) });
    at += 8 + length;
  }
  return pages;
}
