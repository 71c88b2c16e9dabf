import { fieldsOf, type Field, type Kind } from './fields.js';

type Schema = Record<string, unknown>;

/** What a class goes by in schemas: its name without what makes it one of ours. */
const nameOf = (kind: Kind): string => kind.name.replace(/Record$/, '');

/** The JSON Schema (draft 7) of records of a kind, with those that they are made of beside it. */
export function jsonSchema(kind: Kind, title: string): Schema {
  const definitions: Record<string, Schema> = {};
  const define = (one: Kind): Schema => {
    const name = nameOf(one);
    if (!(name in definitions)) {
      definitions[name] = {};
      definitions[name] = objectSchema(one, define);
    }
    return { $ref: `#/definitions/${name}` };
  };
  const whole = objectSchema(kind, define);
  return { $schema: 'http://json-schema.org/draft-07/schema#', title, ...whole, definitions };
}

function objectSchema(kind: Kind, define: (kind: Kind) => Schema): Schema {
  const fresh = new kind() as Record<string, unknown>;
  const fields = [...fieldsOf(kind)];
  return {
    type: 'object',
    additionalProperties: false,
    required: fields.flatMap(([name, { optional }]) => (optional || fresh[name] !== undefined ? [] : [name])),
    properties: Object.fromEntries(
      fields.map(([name, field]) => [name, fieldSchema(field, fresh[name], define)]),
    ),
  };
}

const isPlain = (value: unknown): boolean =>
  value !== undefined && (value === null || typeof value !== 'object' || Array.isArray(value));

function fieldSchema(
  { schema, kinds, nullable }: Field,
  fresh: unknown,
  define: (kind: Kind) => Schema,
): Schema {
  const { example, description, ...plain } = schema;
  const refs = kinds?.().map(define) ?? [];
  const one = refs.length > 1 ? { oneOf: refs } : refs[0];
  const own: Schema = schema.type === 'array' && one ? { ...plain, items: one } : (one ?? plain);
  return {
    ...(description !== undefined && { description }),
    ...(example !== undefined && { examples: [example] }),
    ...(isPlain(fresh) && { default: fresh }),
    ...(nullable ? { anyOf: [own, { type: 'null' }] } : own),
  };
}
