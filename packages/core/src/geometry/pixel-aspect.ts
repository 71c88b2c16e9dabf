/** A pixel's width over its height as a number, from text like "16:11"; 1 where it makes no sense. */
export function parsePixelAspect(text: string): number {
  const [width, height] = text.split(':').map(Number);
  const aspect = width / height;
  return aspect > 0 && Number.isFinite(aspect) ? aspect : 1;
}
