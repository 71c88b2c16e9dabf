import { AsyncLocalStorage } from 'node:async_hooks';
import type { NextFunction, Request, Response } from 'express';

/** Where an edit comes from, as its request says. */
export interface EditOrigin {
  /** The browser window, by a name it gave itself. */
  window: string | null;
  /** The clip's revision that the window knew; null when it does not matter. */
  base: number | null;
  /** The edit's own name: the same one sent again is known by it. */
  key: string | null;
}

const nobody: EditOrigin = { window: null, base: null, key: null };
const requests = new AsyncLocalStorage<EditOrigin>();

export const editOrigin = (): EditOrigin => requests.getStore() ?? nobody;

const name = (value: unknown): string | null =>
  typeof value === 'string' && /^[\w-]{1,64}$/.test(value) ? value : null;

/** Keeps what a request says of itself for all that it sets going. */
export function rememberOrigin({ headers }: Request, _response: Response, next: NextFunction): void {
  const base = Number(headers['x-lurn-base'] ?? NaN);
  requests.run(
    {
      window: name(headers['x-lurn-window']),
      base: Number.isInteger(base) ? base : null,
      key: name(headers['x-lurn-edit']),
    },
    next,
  );
}
