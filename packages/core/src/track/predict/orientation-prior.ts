import { apply, identity, invert, multiply, translation, type Mat3 } from '../../geometry/mat3.js';
import type { SceneChange } from '../scene/scene-motion.js';
import { turnAt } from '../../geometry/warp-model.js';
import type { Template } from '../template/types.js';
import { withWeakModesOf, priorWeight } from '../register/weak-modes.js';
import type { WeakMode } from '../template/types.js';

/** What is left a frame later of how much the picture usually turns. */
const usual = 0.9;

/** How a box would be turned and grown, did it go with the whole picture where its own texture does not tell. */
export class OrientationPrior {
  private pose: Mat3 = identity;
  /** How much the picture has lately turned and grown, radians a frame. */
  private usualTurn = 0;
  /** How much of that has gone unseen, radians, on frames when nothing could be said of the whole picture. */
  unobservedTurn = 0;

  begin(pose: Mat3): void {
    this.pose = pose;
    this.unobservedTurn = 0;
  }

  /** Takes note of how the picture turns; with nothing the texture tells. */
  watch(change: SceneChange | null, aspect: number): void {
    if (!change) this.unobservedTurn = 0;
    else if (change.motion) {
      const { rotation, scale } = turnAt(change.motion, 0, 0, aspect);
      this.usualTurn = Math.max(usual * this.usualTurn, Math.hypot(rotation, Math.log(scale)));
    } else this.unobservedTurn += this.usualTurn;
  }

  /** Where a box that was at `from` is thought to be, turned and grown with the picture, each way as far as `part` says. */
  turned(
    template: Template,
    from: Mat3,
    expected: Mat3,
    motion: Mat3,
    part: (way: WeakMode) => number,
  ): Mat3 {
    const pose = withWeakModesOf(template, multiply(motion, from), multiply(motion, this.pose), part);
    const [here, there] = [pose, expected].map((m) => apply(m, 0, 0));
    return multiply(translation(there.x - here.x, there.y - here.y), pose);
  }

  /** The box was found; `motion` is how the whole picture has moved. */
  found(template: Template, pose: Mat3, motion: Mat3): void {
    this.pose = withWeakModesOf(template, pose, multiply(motion, this.pose), priorWeight);
  }

  /** The box has gone on, and the picture was not asked: it is as far from upright as it was. */
  goOn(from: Mat3, to: Mat3): void {
    this.pose = multiply(to, multiply(invert(from), this.pose));
  }
}
