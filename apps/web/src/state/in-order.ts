/** Milliseconds that what is missing in the row is waited for. */
const patience = 2000;

/**
 * Hands things on in the order of their revisions, each once, in whatever order and however often they come. Where one
 * stays away, `onGap` is told.
 */
export class InOrder<T extends { revision: number }> {
  /** What came before the one that goes before it. */
  private readonly early = new Map<number, T>();
  private waiting: ReturnType<typeof setTimeout> | undefined;

  constructor(
    /** The revision that has been handed on last. */
    private readonly seen: () => number,
    /** Hands one on; afterwards `seen` must say so. */
    private readonly apply: (next: T) => void,
    private readonly onGap: () => void,
  ) {}

  take(item: T): void {
    if (item.revision <= this.seen()) return;
    this.early.set(item.revision, item);
    for (let next = this.next(); next; next = this.next()) {
      this.early.delete(next.revision);
      this.apply(next);
    }
    clearTimeout(this.waiting);
    if (this.early.size > 0) this.waiting = setTimeout(this.onGap, patience);
  }

  /** Starts over, after all has been fetched anew. */
  forget(): void {
    clearTimeout(this.waiting);
    this.early.clear();
  }

  private next(): T | undefined {
    return this.early.get(this.seen() + 1);
  }
}
