/** Red, green and blue, 0 to 1. */
export type Colour = readonly [number, number, number];
