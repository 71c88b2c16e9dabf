import { crossing } from './crossing/crossing.js';
import { lantern } from './lantern/lantern.js';
import { quay } from './quay/quay.js';
import type { Scene } from './scene.js';
import { ticketWindow } from './window/window.js';

/** The clips of The Withy Ferry; a scene is painted when asked for. */
export const scenes: Record<string, () => Scene> = { quay, lantern, crossing, window: ticketWindow };
