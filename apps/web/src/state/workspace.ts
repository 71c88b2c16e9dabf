import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { CurveName } from '../lanes/curve-columns';

/** The order of work. */
export const steps = ['follow', 'steady', 'dress', 'export'] as const;
export type Step = (typeof steps)[number];

/** What the lower part of the page shows. */
export const lowerViews = ['lanes', 'curves', 'tracks', 'troubles'] as const;
export type LowerView = (typeof lowerViews)[number];

/** How the page is laid out; kept in this browser. */
export interface Workspace {
  step: Step;
  lower: LowerView;
  /** The curves of the chosen tracks that are shown. */
  curves: CurveName[];
  /** Folded parts of the panel that are open, by name. */
  unfolded: Record<string, boolean>;
}

export const useWorkspace = create<Workspace>()(
  persist((): Workspace => ({ step: 'follow', lower: 'lanes', curves: ['x', 'y'], unfolded: {} }), {
    name: 'lurn-workspace',
  }),
);

/** What is open over the page, of which there is one at a time; nothing of it is kept. */
export type OpenDialog = 'palette' | 'keys' | 'preferences' | 'import';

export const useDialogs = create<{ open: OpenDialog | null }>(() => ({ open: null }));

export const openDialog = (open: OpenDialog | null): void => useDialogs.setState({ open });
