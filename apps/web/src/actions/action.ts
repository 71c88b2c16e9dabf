import type { LucideIcon } from 'lucide-react';

/** In the order they are listed in. */
export const groups = [
  'Play',
  'Look',
  'Follow',
  'Mend',
  'Tracks',
  'Steady',
  'Dress',
  'Export',
  'Page',
] as const;
export type ActionGroup = (typeof groups)[number];

/** Something a person can have done: what menus, tooltips, keys, the list of keys and the palette are made of. */
export interface Action {
  /** Never changed once it is known: changed keys are kept by it. */
  id: string;
  group: ActionGroup;
  label: string;
  icon?: LucideIcon;
  /** As tinykeys reads them; the first is the one that is shown. */
  keys?: readonly string[];
  /** Other words by which it is looked for: what one wants of it. */
  wish?: string;
  /** Why it cannot be done now, in a sentence; null when it can. */
  unavailable?: () => string | null;
  /** Whether it is on, for what is switched. */
  isOn?: () => boolean;
  /** Kept out of the list of keys: one of several that are told as one. */
  quiet?: boolean;
  run: () => void;
}
