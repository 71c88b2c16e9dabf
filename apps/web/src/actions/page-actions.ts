import { Keyboard, LayoutGrid, Search, Settings, SunMoon } from 'lucide-react';
import { chooseTrack } from '../state/track-edits';
import { runningJob, useDocument } from '../state/document';
import { cancelJob } from '../state/editor';
import { usePreferences } from '../state/preferences';
import { useSelection } from '../state/selection';
import { useView } from '../state/view';
import { openDialog, steps, useWorkspace, type Step } from '../state/workspace';
import type { Action } from './action';
import * as reasons from './reasons';

/** Puts down what is in the hand; then stops following; then chooses one alone. */
function escape(): void {
  const job = runningJob('track')(useDocument.getState());
  const { selected } = useSelection.getState();
  const { tool, span, editedArea } = useView.getState();
  if (tool !== 'move') useView.setState({ tool: 'move', draft: null });
  else if (editedArea !== null) useView.setState({ editedArea: null });
  else if (span) useView.setState({ span: null });
  else if (job) void cancelJob(job.id);
  else if (selected) chooseTrack(selected);
}

const stepNames: Record<Step, string> = {
  follow: 'Follow',
  steady: 'Steady',
  dress: 'Dress',
  export: 'Export',
};

export const pageActions: Action[] = [
  ...steps.map((step, i): Action => ({
    id: `step-${step}`,
    group: 'Page',
    label: `Step ${i + 1}: ${stepNames[step]}`,
    keys: [`Alt+Digit${i + 1}`],
    wish: 'panel',
    unavailable: reasons.clip,
    isOn: () => useWorkspace.getState().step === step,
    run: () => useWorkspace.setState({ step }),
  })),
  {
    id: 'palette',
    group: 'Page',
    label: 'Find an action',
    icon: Search,
    keys: ['$mod+k'],
    wish: 'command search',
    run: () => openDialog('palette'),
  },
  {
    id: 'keys',
    group: 'Page',
    label: 'Keys',
    icon: Keyboard,
    keys: ['Shift+?', '?'],
    wish: 'shortcuts help',
    run: () => openDialog('keys'),
  },
  {
    id: 'preferences',
    group: 'Page',
    label: 'Preferences',
    icon: Settings,
    keys: ['$mod+,'],
    wish: 'settings theme',
    run: () => openDialog('preferences'),
  },
  {
    id: 'theme',
    group: 'Page',
    label: 'Light or dark theme',
    icon: SunMoon,
    wish: 'bright night',
    run: () => usePreferences.setState(({ theme }) => ({ theme: theme === 'dusk' ? 'noon' : 'dusk' })),
  },
  {
    id: 'clips',
    group: 'Page',
    label: 'Back to the clips',
    icon: LayoutGrid,
    unavailable: reasons.clip,
    run: () => document.querySelector<HTMLAnchorElement>('[data-clips-link]')?.click(),
  },
  {
    id: 'escape',
    group: 'Page',
    label: 'Put the tool down, stop following, choose one alone',
    keys: ['Escape'],
    wish: 'cancel',
    run: escape,
  },
];
