import type { SceneView, ShotView } from '@lurn/contract';
import { attempt } from '../api/attempt';
import { api } from '../api/client';
import { useDocument } from './document';
import { edit, solve } from './editor';
import { touch } from './drafts';
import { useView } from './view';

/** Has the whole picture's motion found, in the areas that are drawn. */
export const findMotion = (): Promise<void> =>
  attempt(async () => {
    const { clip } = useDocument.getState();
    if (!clip) return;
    const { areas } = useView.getState();
    const of = (kind: 'within' | 'without') =>
      areas.filter((area) => area.kind === kind).map(({ spline }) => ({ knots: [...spline.knots] }));
    await api.findScene(clip.id, { within: of('within'), without: of('without') });
  });

export const changeScene = async (
  patch: Partial<Pick<SceneView, 'used' | 'hidden' | 'name'>>,
): Promise<void> => {
  const { scene } = useDocument.getState();
  if (!scene) return;
  useDocument.setState({ scene: { ...scene, ...patch } });
  solve();
  await touch({
    ...{ kind: 'scene', id: scene.id, part: patch, label: Object.keys(patch).join(), rest: 0 },
    send: (_, edits) => edits.changeScene(scene.id, patch),
  });
};

export const deleteScene = async (): Promise<void> => {
  const { scene } = useDocument.getState();
  if (scene) await edit((_, edits) => edits.deleteScene(scene.id));
};

/** Holds a group of a shot, or any depth; seen at once, stored when the hand rests. */
export function holdGroup(shot: number, group: number, depth: number | null = null): void {
  const { scene } = useDocument.getState();
  if (!scene) return;
  const before = scene.shots[shot];
  if (before.group === group && before.depth === depth) return;
  const shots = scene.shots.map((one, i): ShotView => (i === shot ? { ...one, group, depth } : one));
  useDocument.setState({ scene: { ...scene, shots } });
  solve();
  const hold = { shot, group, ...(depth === null ? {} : { depth }) };
  void touch({
    ...{ kind: 'scene', id: scene.id, part: { shots }, label: `shot ${shot}` },
    ...(depth === null && { rest: 0 }),
    send: (_, edits) => edits.changeScene(scene.id, { hold }),
  });
}
