import { FormatError } from '@lurn/core';
import { plainToInstance } from 'class-transformer';
import { validateSync, type ValidationError } from 'class-validator';
import { fieldsOf, type Kind } from './fields.js';

/**
 * Where something that comes from outside has a list of more than its description lets it have; null where it has none. Asked
 * before anything is made of it: what is too long is not gone through.
 */
export function overlong(kind: Kind, given: unknown, path = ''): string | null {
  if (typeof given !== 'object' || given === null) return null;
  for (const [name, { schema, kindOf }] of fieldsOf(kind)) {
    const inner = (given as Record<string, unknown>)[name];
    const place = path ? `${path}.${name}` : name;
    const { maxItems = Infinity } = schema;
    if (Array.isArray(inner) && inner.length > maxItems) return `"${place}" takes no more than ${maxItems}.`;
    if (typeof inner === 'string' && inner.length > mostLetters) return `"${place}" is too long.`;
    if (!kindOf || typeof inner !== 'object' || inner === null) continue;
    const found = Array.isArray(inner)
      ? inner.map((item: object, i) => overlongIn(kindOf, item, `${place}.${i}`)).find(Boolean)
      : overlongIn(kindOf, inner, place);
    if (found) return found;
  }
  return null;
}

function overlongIn(
  kindOf: (given: object) => Kind | undefined,
  given: unknown,
  path: string,
): string | null {
  const kind = typeof given === 'object' && given !== null ? kindOf(given) : undefined;
  return kind ? overlong(kind, given, path) : null;
}

/** No text of anything is longer. */
const mostLetters = 200_000;

/**
 * Something as files and requests have it, checked by its description; what is left out has its default. Throws a FormatError
 * of one sentence that begins with what `named` says and tells the field. Where it is not `strict`, fields that are not known, as
 * another version may have had, are left out.
 */
export function read<T extends object>(
  kind: Kind<T>,
  given: unknown,
  named: string,
  { strict = true } = {},
): T {
  const wrong = (what: string): FormatError => new FormatError(`${named}: ${what}`);
  if (typeof given !== 'object' || given === null || Array.isArray(given)) throw wrong('it is an object.');
  const long = overlong(kind, given);
  if (long) throw wrong(long);
  const made = plainToInstance(kind, given);
  const [fault] = validateSync(made, {
    ...{ whitelist: true, forbidNonWhitelisted: strict, forbidUnknownValues: true, stopAtFirstError: true },
  });
  if (fault) throw wrong(`${sentenceOf(fault)}.`);
  return made;
}

/** Whether something is as its description says, as far as that is known. */
export function isSound(kind: Kind, given: unknown): boolean {
  try {
    read(kind, given, '', { strict: false });
    return true;
  } catch (error) {
    if (error instanceof FormatError) return false;
    throw error;
  }
}

/** What is wrong with a field, or what lies in it, in words. */
export function sentenceOf(fault: ValidationError, path = ''): string {
  const { property, constraints = {}, children = [], target } = fault;
  const place = path ? `${path}.${property}` : property;
  const [[name, said] = []] = Object.entries(constraints);
  if (name === 'whitelistValidation') {
    const has = target ? [...fieldsOf(target.constructor as Kind).keys()].join(', ') : '';
    return `${path ? `"${path}"` : 'it'} has no "${property}"; it has ${has}`;
  }
  if (said !== undefined) return `"${place}" ${said.replace(`${property} `, '')}`;
  const [inner] = children;
  return inner ? sentenceOf(inner, place) : `"${place}" cannot be read`;
}
