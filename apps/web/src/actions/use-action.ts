import { useSyncExternalStore } from 'react';
import { useBrush } from '../state/brush';
import { useDocument } from '../state/document';
import { useLayers } from '../state/layers';
import { usePlayhead } from '../state/playhead';
import { usePreferences } from '../state/preferences';
import { useRegions } from '../state/regions';
import { useSelection } from '../state/selection';
import { useSync } from '../state/sync';
import { useTroubles } from '../state/trouble-list';
import { useView } from '../state/view';
import { useWorkspace } from '../state/workspace';
import { keysOf, shownKeys } from './keys';
import { actionOf } from './registry';

const stores = [
  useDocument,
  useSelection,
  useView,
  usePlayhead,
  usePreferences,
  useWorkspace,
  useBrush,
  useLayers,
  useRegions,
  useTroubles,
  useSync,
];

function subscribe(tell: () => void): () => void {
  const stops = stores.map((store) => store.subscribe(tell));
  return () => stops.forEach((stop) => stop());
}

/** An action as it stands: whoever shows it is drawn anew only when what is shown of it has changed. */
export function useAction(id: string) {
  const action = actionOf(id);
  const reason = useSyncExternalStore(subscribe, () => action.unavailable?.() ?? null);
  const isOn = useSyncExternalStore(subscribe, () => action.isOn?.());
  const changed = usePreferences((s) => s.keys);
  const [keys] = keysOf(action, changed);
  const shown = keys ? shownKeys(keys) : null;
  return { action, reason, isOn, keys: shown, tip: `${action.label}${shown ? ` (${shown})` : ''}` };
}
