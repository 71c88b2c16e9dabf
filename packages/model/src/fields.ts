import 'reflect-metadata';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsObject,
  IsString,
  Length,
  Matches,
  Max,
  Min,
  ValidateBy,
  ValidateIf,
  ValidateNested,
} from 'class-validator';

/** A class whose fields are described; made without arguments it has the defaults. */
export type Kind<T extends object = object> = new () => T;

/** What JSON Schema says of a field, but for the classes that it is made of. */
export interface FieldSchema {
  type?: 'number' | 'integer' | 'boolean' | 'string' | 'array' | 'object';
  description?: string;
  example?: unknown;
  format?: string;
  pattern?: string;
  enum?: readonly unknown[];
  minimum?: number;
  maximum?: number;
  multipleOf?: number;
  minLength?: number;
  maxLength?: number;
  minItems?: number;
  maxItems?: number;
  items?: FieldSchema;
}

/** All that is known of a field of a class. */
export interface Field {
  schema: FieldSchema;
  /** The classes that it may be of, or its items are; none where it is plain. */
  kinds?: () => readonly Kind[];
  /** Which of them something is of. */
  kindOf?: (given: object) => Kind | undefined;
  optional: boolean;
  nullable: boolean;
  /** Whether it holds ids of other records: one, or a list of them. */
  reference: boolean;
  /** Puts the same field on another class. */
  copyTo: (target: object, name: string, optional: boolean) => void;
}

/** What may be said of any field. */
export interface FieldOptions {
  description?: string;
  example?: unknown;
  /** May be left out, but is not null: that would be stored in place of a default. */
  optional?: boolean;
  nullable?: boolean;
}

const described = new Map<Kind, Map<string, Field>>();

/** The fields of a class and of those that it extends, by name. */
export function fieldsOf(kind: Kind): ReadonlyMap<string, Field> {
  const above = Object.getPrototypeOf(kind.prototype as object) as { constructor: Kind } | null;
  const inherited = above && above !== Object.prototype ? fieldsOf(above.constructor) : [];
  return new Map([...inherited, ...(described.get(kind) ?? [])]);
}

/** Every class of which some field is described. */
export const describedKinds = (): Kind[] => [...described.keys()];

type Known = Pick<Field, 'schema'> & Partial<Pick<Field, 'kinds' | 'kindOf' | 'reference'>>;

/** A field of what is known of it, checked by validators that each say what is right. */
function field(known: Known, options: FieldOptions, checks: readonly PropertyDecorator[]): PropertyDecorator {
  const { description, example, optional = false, nullable = false } = options;
  const put = (target: object, name: string, isOptional: boolean): void => {
    const kind = target.constructor as Kind;
    const fields = described.get(kind) ?? new Map<string, Field>();
    described.set(kind, fields);
    fields.set(name, {
      reference: false,
      ...known,
      schema: {
        ...known.schema,
        ...(description !== undefined && { description }),
        ...(example !== undefined && { example }),
      },
      ...{ optional: isOptional, nullable, copyTo: put },
    });
    for (const check of checks) check(target, name);
    if (isOptional) ValidateIf((_, value) => value !== undefined)(target, name);
    if (nullable) ValidateIf((_, value) => value !== null)(target, name);
  };
  return (target, name) => put(target, String(name), optional);
}

/** A number between two bounds, both included. */
export function Num(least: number, most: number, options: FieldOptions = {}): PropertyDecorator {
  const message = `$property is a number from ${least} to ${most}`;
  const schema: FieldSchema = { type: 'number', minimum: least, maximum: most };
  return field({ schema }, options, [
    Max(most, { message }),
    Min(least, { message }),
    IsNumber({ allowNaN: false, allowInfinity: false }, { message }),
  ]);
}

/** A whole number between two bounds, both included. */
export function Whole(
  least: number,
  most: number,
  { multipleOf = 1, ...options }: FieldOptions & { multipleOf?: number } = {},
): PropertyDecorator {
  const message = `$property is a whole number from ${least} to ${most}`;
  const even = `$property is a multiple of ${multipleOf}`;
  const schema: FieldSchema = {
    ...{ type: 'integer', minimum: least, maximum: most },
    ...(multipleOf > 1 && { multipleOf }),
  };
  return field({ schema }, options, [
    ...(multipleOf > 1
      ? [check('isMultiple', (v) => typeof v === 'number' && v % multipleOf === 0, even)]
      : []),
    Max(most, { message }),
    Min(least, { message }),
    IsInt({ message }),
  ]);
}

/** No clip is longer, frames. */
export const mostFrames = 10_000_000;
/** Nothing lies further off, clip pixels. */
export const farthest = 100_000;

/** The number of a frame. */
export const Frame = (options: FieldOptions = {}): PropertyDecorator => Whole(0, mostFrames, options);
/** A place or a distance along one axis, pixels. */
export const Pixels = (options: FieldOptions = {}): PropertyDecorator => Num(-farthest, farthest, options);
/** A part of a whole, 0 to 1. */
export const Share = (options: FieldOptions = {}): PropertyDecorator => Num(0, 1, options);

export const Flag = (options: FieldOptions = {}): PropertyDecorator =>
  field({ schema: { type: 'boolean' } }, options, [IsBoolean({ message: '$property is true or false' })]);

/** One of some words or numbers. */
export function Choice(choices: readonly (string | number)[], options: FieldOptions = {}): PropertyDecorator {
  const schema: FieldSchema = {
    type: typeof choices[0] === 'number' ? 'number' : 'string',
    enum: choices,
  };
  const message =
    choices.length === 1 ? `$property is ${choices[0]}` : `$property is one of ${choices.join(', ')}`;
  return field({ schema }, options, [IsIn(choices, { message })]);
}

/** A text of so many letters, of a pattern where there is one. */
export function Words(
  least: number,
  most: number,
  { pattern, format, ...options }: FieldOptions & { pattern?: RegExp; format?: string } = {},
): PropertyDecorator {
  const schema: FieldSchema = {
    ...{ type: 'string', minLength: least, maxLength: most },
    ...(pattern && { pattern: pattern.source }),
    ...(format !== undefined && { format }),
  };
  return field({ schema }, options, [
    ...(pattern ? [Matches(pattern, { message: `$property is like ${String(options.example)}` })] : []),
    Length(least, most, { message: `$property is a text of ${least} to ${most} letters` }),
    IsString({ message: '$property is a text' }),
  ]);
}

const longestId = 120;

/** The name that another record goes by, here or, in a recipe, in its file. */
export const Reference = ({
  most = longestId,
  ...options
}: FieldOptions & { most?: number } = {}): PropertyDecorator =>
  field({ schema: { type: 'string', maxLength: most }, reference: true }, options, [
    Length(0, most, { message: `$property is a name of at most ${most} letters` }),
    IsString({ message: '$property is the name of another record' }),
  ]);

/** A list of texts. */
export function Strings(
  { least = 0, most, reference = false }: { least?: number; most: number; reference?: boolean },
  { pattern, format, ...options }: FieldOptions & { pattern?: RegExp; format?: string } = {},
): PropertyDecorator {
  const items: FieldSchema = {
    ...{ type: 'string', maxLength: longestId },
    ...(pattern && { pattern: pattern.source }),
    ...(format !== undefined && { format }),
  };
  return field({ schema: { type: 'array', minItems: least, maxItems: most, items }, reference }, options, [
    ...(pattern ? [Matches(pattern, { each: true, message: '$property has one that cannot be right' })] : []),
    Length(0, longestId, { each: true, message: `$property has texts of at most ${longestId} letters` }),
    IsString({ each: true, message: '$property is a list of texts' }),
    ...(least > 0 ? [ArrayMinSize(least, { message: `$property takes ${least} or more` })] : []),
    ArrayMaxSize(most, { message: `$property takes no more than ${most}` }),
    IsArray({ message: '$property is a list' }),
  ]);
}

/** The names of other records. */
export const References = (
  { least, most }: { least?: number; most: number },
  options: FieldOptions = {},
): PropertyDecorator => Strings({ least, most, reference: true }, options);

const uuid = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;

/** What the server names something by. */
export const Id = (options: FieldOptions = {}): PropertyDecorator =>
  Words(36, 36, {
    pattern: uuid,
    format: 'uuid',
    example: '4f6f1a36-6d1e-4c5e-9a55-0d2f5a3a7b10',
    ...options,
  });

export const Ids = (
  { least, most }: { least?: number; most: number },
  options: FieldOptions = {},
): PropertyDecorator => Strings({ least, most }, { pattern: uuid, format: 'uuid', ...options });

/** A check of one's own, and what it says where it fails. */
const check = (name: string, validate: (value: unknown) => boolean, message: string): PropertyDecorator =>
  ValidateBy({ name, validator: { validate, defaultMessage: () => message } });

/** How many numbers a list holds, and between which bounds they lie. */
interface NumbersOptions extends FieldOptions {
  least?: number;
  most: number;
  /** They come by so many. */
  by?: number;
  bounds: readonly [least: number, most: number];
  /** Where those in a group have bounds of their own: of each in turn. */
  each?: readonly (readonly [least: number, most: number])[];
}

/** A list of plain numbers, looked through once. */
export function Numbers({ least = 0, most, by = 1, bounds, each, ...options }: NumbersOptions) {
  const turn = each ?? [bounds];
  const isRight = (value: unknown): boolean =>
    Array.isArray(value) &&
    value.length >= least &&
    value.length <= most &&
    value.length % by === 0 &&
    value.every((v, i) => {
      const [low, high] = turn[i % turn.length];
      return typeof v === 'number' && v >= low && v <= high;
    });
  const count = least === most ? `${most}` : least === 0 ? `up to ${most}` : `${least} to ${most}`;
  const message = `$property is a list of ${count} numbers${by > 1 && least !== most ? ` by ${by}` : ''} from ${bounds.join(' to ')}`;
  const items: FieldSchema = { type: 'number', minimum: bounds[0], maximum: bounds[1] };
  const schema: FieldSchema = { type: 'array', minItems: least, maxItems: most, items };
  return field({ schema }, options, [check('numbers', isRight, message)]);
}

/** Red, green and blue, each 0 to 1. */
export const Colour = (options: FieldOptions = {}): PropertyDecorator =>
  Numbers({ description: 'Red, green and blue', ...options, least: 3, most: 3, bounds: [0, 1] });

const isThing = (message: string): PropertyDecorator[] => [
  ValidateNested(),
  IsObject({ message: `$property ${message}` }),
];

const only = (kind: () => Kind) => ({ kinds: () => [kind()], kindOf: kind });

/** An object of a class of its own. */
export const Part = (kind: () => Kind, options: FieldOptions = {}): PropertyDecorator =>
  field({ schema: { type: 'object' }, ...only(kind) }, options, [Type(kind), ...isThing('is an object')]);

/** A list of objects of a class of their own. */
export function Parts(
  kind: () => Kind,
  { least = 0, most, ...options }: FieldOptions & { least?: number; most: number },
): PropertyDecorator {
  const few = `$property takes ${least} or more`;
  return field({ schema: { type: 'array', minItems: least, maxItems: most }, ...only(kind) }, options, [
    Type(kind),
    ValidateNested({ each: true }),
    IsObject({ each: true, message: '$property is a list of objects' }),
    ...(least > 0 ? [ArrayMinSize(least, { message: few })] : []),
    ArrayMaxSize(most, { message: `$property takes no more than ${most}` }),
    IsArray({ message: '$property is a list' }),
  ]);
}

/** No class of those that something may be of. */
class Strange {}

/** An object of one of some classes, by what it says of itself; `says` is what is right where it is of none. */
export function OneOf(
  kinds: () => readonly Kind[],
  pick: (given: object) => Kind | undefined,
  says: string,
  options: FieldOptions = {},
): PropertyDecorator {
  const kindOf = (given: unknown): Kind =>
    (typeof given === 'object' && given !== null && !Array.isArray(given) && pick(given)) || Strange;
  return field({ schema: { type: 'object' }, kinds, kindOf: pick }, options, [
    Type((help) => kindOf((help?.object as Record<string, unknown>)[help?.property ?? ''])),
    check(
      'isKnown',
      (value) =>
        typeof value === 'object' && value !== null && !Array.isArray(value) && !(value instanceof Strange),
      `$property ${says}`,
    ),
    ValidateNested(),
  ]);
}

/** A class with some fields of another, which may be left out: what may be changed of a record. */
export function partOf<T extends object, K extends keyof T & string>(
  kind: Kind<T>,
  names: readonly K[],
  { optional = true } = {},
): Kind<Partial<Pick<T, K>>> {
  class Some {}
  const fields = fieldsOf(kind);
  for (const name of names) fields.get(name)?.copyTo(Some.prototype, name, optional);
  return Some;
}
