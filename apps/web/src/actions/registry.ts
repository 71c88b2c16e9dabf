import type { Action } from './action';
import { dressActions } from './dress-actions';
import { exportActions } from './export-actions';
import { followActions } from './follow-actions';
import { lookActions } from './look-actions';
import { mendActions } from './mend-actions';
import { pageActions } from './page-actions';
import { playActions } from './play-actions';
import { regionActions } from './region-actions';
import { sceneActions } from './scene-actions';
import { steadyActions } from './steady-actions';
import { trackActions } from './track-actions';

/** Everything that can be done, each thing once. */
export const actions: readonly Action[] = [
  ...playActions,
  ...lookActions,
  ...sceneActions,
  ...followActions,
  ...regionActions,
  ...mendActions,
  ...trackActions,
  ...steadyActions,
  ...dressActions,
  ...exportActions,
  ...pageActions,
];

const byId = new Map(actions.map((action) => [action.id, action]));

export function actionOf(id: string): Action {
  const action = byId.get(id);
  if (!action) throw new Error(`There is no action "${id}".`);
  return action;
}
