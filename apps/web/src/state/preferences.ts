import type { FollowSettings } from '@lurn/contract';
import { create } from 'zustand';
import { persist } from 'zustand/middleware';

export const themes = ['dusk', 'noon'] as const;
export type Theme = (typeof themes)[number];

/** Shares of the stage's resolution that pictures are drawn at while they play. */
export const playbackSizes = [1, 0.5, 0.25] as const;
export const playbackRates = [1, 0.5, 0.25] as const;

export interface BoxSizes {
  template: number;
  search: number;
}

/** How one person likes the app; kept in this browser. */
export interface Preferences {
  theme: Theme;
  playbackSize: (typeof playbackSizes)[number];
  playbackRate: (typeof playbackRates)[number];
  loop: boolean;
  muted: boolean;
  /** Full width and height of the boxes of new points, clip pixels; null to go by the clip's size. */
  boxes: BoxSizes | null;
  /** What happens to new points below their threshold; null as the server has it. */
  below: FollowSettings['below'] | null;
  /** Keys of actions that were changed, by the action's id. */
  keys: Record<string, string[]>;
}

export const defaultPreferences: Preferences = {
  theme: 'dusk',
  playbackSize: 1,
  playbackRate: 1,
  loop: true,
  muted: false,
  boxes: null,
  below: null,
  keys: {},
};

export const usePreferences = create<Preferences>()(
  persist(() => defaultPreferences, { name: 'lurn-preferences' }),
);

/** What new points are placed with, as the server takes it. */
export function newPointSettings({ boxes, below }: Pick<Preferences, 'boxes' | 'below'>) {
  const square = (size: number) => ({ width: size, height: size });
  return {
    template: boxes ? square(boxes.template) : undefined,
    search: boxes ? square(boxes.search) : undefined,
    settings: below ? { below } : undefined,
  };
}

/** Has the page look as its theme says, now and when it changes. */
export function followTheme(): void {
  const apply = ({ theme }: Preferences): void => {
    document.documentElement.dataset.theme = theme;
  };
  apply(usePreferences.getState());
  usePreferences.subscribe(apply);
}
