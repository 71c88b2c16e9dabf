import { create } from 'zustand';

interface Playhead {
  /** The frame asked for. */
  frame: number;
  /** The frame whose picture is on the stage; −1 before the first. */
  shown: number;
  playing: boolean;
  /** How long the last frame took from asking to drawn. */
  milliseconds: number;
}

/** Where in time the person is. Apart from the rest, since it changes with every frame. */
export const usePlayhead = create<Playhead>(() => ({ frame: 0, shown: -1, playing: false, milliseconds: 0 }));
