import { availableParallelism } from 'node:os';

let cores = availableParallelism();

/** How many cores tools that are started from now on in this thread may run on. */
export const useCores = (count: number): void => {
  cores = Math.min(Math.max(1, count), availableParallelism());
};

export const coresInUse = (): number => cores;

/** Holds a tool to the first so many cores; nothing where it may use all. */
export const heldToCores = (): string[] =>
  cores < availableParallelism() ? ['taskset', '-c', cores === 1 ? '0' : `0-${cores - 1}`] : [];
