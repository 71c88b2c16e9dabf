import { applyDecorators } from '@nestjs/common';
import { ApiProperty, ApiPropertyOptional, type ApiPropertyOptions } from '@nestjs/swagger';
import { Type, type ClassConstructor } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsDefined,
  IsObject,
  ValidateIf,
  ValidateNested,
} from 'class-validator';

/** A number of any size, but a number. */
export const finite = { allowNaN: false, allowInfinity: false };

/** May be left out, but is not null: that would be stored in place of a default. */
export const Optional = (description: ApiPropertyOptions = {}): PropertyDecorator =>
  applyDecorators(
    ApiPropertyOptional(description),
    ValidateIf((_, value) => value !== undefined),
  );

/** The description tells a class from a function that names it by the function's own name, `type`. */
const described = (
  description: ApiPropertyOptions,
  kind: () => ClassConstructor<object>,
): ApiPropertyOptions => ({ ...description, type: () => kind() }) as ApiPropertyOptions;

const object = (kind: () => ClassConstructor<object>): PropertyDecorator =>
  applyDecorators(IsObject(), ValidateNested(), Type(kind));

/** An object of a class of its own that must be there: left out it would pass unseen, as would a list. */
export const Nested = (kind: () => ClassConstructor<object>, description: ApiPropertyOptions = {}) =>
  applyDecorators(ApiProperty(described(description, kind)), IsDefined(), object(kind));

/** The same, where it may be left out. */
export const OptionalNested = (kind: () => ClassConstructor<object>, description: ApiPropertyOptions = {}) =>
  applyDecorators(Optional(described(description, kind)), object(kind));

/** How many things a list may hold, and what it is for. */
interface ListOptions {
  least?: number;
  most: number;
  description?: string;
}

const list = (kind: ClassConstructor<object>, { least, most }: ListOptions): PropertyDecorator =>
  applyDecorators(
    IsArray(),
    ...(least === undefined ? [] : [ArrayMinSize(least)]),
    ArrayMaxSize(most),
    IsObject({ each: true }),
    ValidateNested({ each: true }),
    Type(() => kind),
  );

/** A list of objects of a class of its own. */
export const NestedList = (kind: ClassConstructor<object>, options: ListOptions) =>
  applyDecorators(ApiProperty({ type: [kind], description: options.description }), list(kind, options));

/** The same, where it may be left out. */
export const OptionalNestedList = (kind: ClassConstructor<object>, options: ListOptions) =>
  applyDecorators(Optional({ type: [kind], description: options.description }), list(kind, options));
