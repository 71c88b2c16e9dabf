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
    mapped[name] = Array.isArray(value) ? value.map(map) : map(value);
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
