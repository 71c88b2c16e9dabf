import { findWeakModes } from './observability.js';
import { cutTemplate } from '../template/cut.js';
import type { Template } from '../template/types.js';

/** Cuts a template, as `cutTemplate` does, and finds what its texture does not tell, so that it can be registered. */
export function prepareTemplate(...cut: Parameters<typeof cutTemplate>): Template {
  const template = cutTemplate(...cut);
  findWeakModes(cut[0], template);
  return template;
}
