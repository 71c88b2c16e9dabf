import { fieldsOf, type Kind } from './fields.js';

/** A record with every id of another record that it holds put through a function. */
export function mapIds<T extends object>(kind: Kind, record: T, idOf: (id: string) => string): T {
  const mapped = { ...record } as Record<string, unknown>;
  const mapOne = (value: unknown): unknown => (value ? idOf(value as string) : value);
  for (const [name, { kindOf, reference }] of fieldsOf(kind)) {
    const value = mapped[name];
    if (value === undefined || value === null || !(reference || kindOf)) continue;
    const map = (item: unknown): unknown => {
      if (reference) return mapOne(item);
      const own = kindOf?.(item as object);
      return own ? mapIds(own, item as object, idOf) : item;
    };
    mapped[name] = Array.isArray(value)
      ? reference
        ? [...new Set(value.map(map))]
        : value.map(map)
      : map(value);
  }
  return mapped as T;
}

/** The ids of other records that a record holds. */
export function idsIn(kind: Kind, record: object): string[] {
  const ids: string[] = [];
  mapIds(kind, record, (id) => {
    ids.push(id);
    return id;
  });
  return ids;
}

/**
 * A record without the names of others that there are no more: a name that may be left out is, as is what it belongs to where
 * that may be nothing. What rides on several goes on with those that are left; on none of them, it keeps saying so.
 */
export function withoutIds<T extends object>(kind: Kind, record: T, gone: ReadonlySet<string>): T {
  const left = { ...record } as Record<string, unknown>;
  for (const [name, { kindOf, reference, optional, nullable }] of fieldsOf(kind)) {
    const value = left[name];
    if (value === undefined || value === null) continue;
    if (reference && Array.isArray(value)) {
      const rest = (value as string[]).filter((id) => !gone.has(id));
      if (rest.length > 0) left[name] = rest;
    } else if (reference && optional && gone.has(value as string)) delete left[name];
    else if (kindOf && Array.isArray(value))
      left[name] = (value as object[]).map((item) => within(kindOf, item, gone));
    else if (kindOf) {
      const inner = value;
      const lost = nullable && namesAny(kindOf(inner), inner, gone);
      left[name] = lost ? null : within(kindOf, inner, gone);
    }
  }
  return left as T;
}

const within = (
  kindOf: (item: object) => Kind | undefined,
  item: object,
  gone: ReadonlySet<string>,
): object => {
  const kind = kindOf(item);
  return kind ? withoutIds(kind, item, gone) : item;
};

/** Whether something is nothing without one of those that are gone: it names it by itself, and must. */
const namesAny = (kind: Kind | undefined, item: object, gone: ReadonlySet<string>): boolean =>
  kind !== undefined &&
  [...fieldsOf(kind)].some(([name, { reference, optional }]) => {
    const value = (item as Record<string, unknown>)[name];
    return reference && !optional && typeof value === 'string' && gone.has(value);
  });
