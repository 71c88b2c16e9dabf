import type { KeptSteadyView } from '@lurn/contract';
import type { ShakeReport, SteadyResult } from '@lurn/core';
import { create } from 'zustand';
import { Solver, type Problem } from '../solving/solver';
import { useDocument } from './document';

/** The settings that what is chosen is compared with, in place of the source; solved in a thread of their own. */
export interface Compared {
  kept: KeptSteadyView | null;
  result: SteadyResult | null;
  shake: ShakeReport | null;
}

const nothing: Compared = { kept: null, result: null, shake: null };

export const useCompared = create<Compared>(() => nothing);

let solver: Solver | null = null;

/** Solves the compared settings for the same tracks and scene; nothing where nothing is compared with. */
export function solveCompared(problem: Problem): void {
  const { kept } = useCompared.getState();
  if (!kept) return;
  solver ??= new Solver(
    (result) => useCompared.getState().kept && useCompared.setState({ result }),
    () => useCompared.setState({ result: null }),
    () => undefined,
    ({ shake }) => useCompared.getState().kept && useCompared.setState({ shake }),
  );
  solver.solve({ ...problem, settings: kept.steady }, { hurry: false });
}

/** Compares with the source again. */
export function stopComparing(): void {
  solver?.forget();
  useCompared.setState(nothing);
}

// Settings that are dropped, or another clip's, are not compared with any more.
useDocument.subscribe(({ kept }) => {
  const { kept: compared } = useCompared.getState();
  if (compared && !kept.some(({ id }) => id === compared.id)) stopComparing();
});
