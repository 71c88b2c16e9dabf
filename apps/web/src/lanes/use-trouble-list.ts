import { useDeferredValue, useMemo } from 'react';
import { useDocument } from '../state/document';
import { troubleList, type Trouble } from '../state/troubles';

/** All that is worth a look, the worst first; worked out when nothing more urgent is to be drawn. */
export function useTroubleList(): Trouble[] {
  const tracks = useDocument((s) => s.tracks);
  const samples = useDeferredValue(useDocument((s) => s.samples));
  const result = useDeferredValue(useDocument((s) => s.result));
  return useMemo(() => troubleList(tracks, samples, result), [tracks, samples, result]);
}
