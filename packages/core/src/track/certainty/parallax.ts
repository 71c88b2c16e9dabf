/** So many looks back what parts of the box have done counts. */
const memory = 12;
/** The most that one registration counts for, square pixels: a single one may have been blurred. */
const most = 0.3 ** 2;

/**
 * Whether the box shows one thing, or several that go their own ways. One look tells little, as where they are may just be
 * right for each other; several tell, and make doubtful what comes between, too.
 */
export class ParallaxHistory {
  private looks = 0;
  /** Mean of `Exactness.parted`, square pixels. */
  private mean = 0;

  begin(): void {
    this.looks = 0;
    this.mean = 0;
  }

  /** Takes note of what a full registration has found. */
  seen(parallax: number): void {
    this.mean = this.meanWith(parallax);
    this.looks++;
  }

  /** How far parts of the box have lately gone apart, pixels, with one that is not taken note of yet. */
  parallaxWith(parallax: number): number {
    return Math.sqrt(Math.max(this.meanWith(parallax), 0));
  }

  private meanWith(parallax: number): number {
    return this.mean + (Math.min(parallax, most) - this.mean) / Math.min(this.looks + 1, memory);
  }
}
