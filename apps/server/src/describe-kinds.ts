import { ValidationPipe, UnprocessableEntityException, type ArgumentMetadata } from '@nestjs/common';
import { ApiExtraModels, ApiProperty, getSchemaPath, type ApiPropertyOptions } from '@nestjs/swagger';
import { describedKinds, fieldsOf, overlong, type Field, type Kind } from '@lurn/model';

/** Has the API's description tell what records and requests are made of, as they are checked by. */
export function describeKinds(): void {
  for (const kind of describedKinds()) {
    const fresh = new kind() as Record<string, unknown>;
    for (const [name, field] of fieldsOf(kind)) {
      if (field.kinds) ApiExtraModels(...field.kinds())(kind);
      ApiProperty(propertyOf(field, fresh[name]))(kind.prototype as object, name);
    }
  }
}

function propertyOf({ schema, kinds, optional, nullable }: Field, fresh: unknown): ApiPropertyOptions {
  const { type, ...plain } = schema;
  const of = kinds?.() ?? [];
  const isList = type === 'array';
  const common = {
    ...plain,
    required: !optional && fresh === undefined,
    ...(nullable && { nullable: true }),
    ...(fresh !== undefined && typeof fresh !== 'object' && { default: fresh }),
  };
  // A class is told from a function that names it by the function's own name, `type`.
  const one = isList ? { type: [of[0]] } : { type: () => of[0] };
  const shown =
    of.length > 1
      ? { type: 'object', oneOf: of.map((each) => ({ $ref: getSchemaPath(each) })) }
      : of.length === 1
        ? one
        : { type };
  return { ...common, ...shown } as ApiPropertyOptions;
}

/** Checks what is sent by the description of its class; what is longer than that lets it be is not looked at any further. */
export class RequestPipe extends ValidationPipe {
  constructor() {
    super({ whitelist: true, forbidNonWhitelisted: true, transform: true, errorHttpStatusCode: 422 });
  }

  override async transform(value: unknown, metadata: ArgumentMetadata): Promise<unknown> {
    const long = metadata.metatype ? overlong(metadata.metatype as Kind, value) : null;
    if (long) throw new UnprocessableEntityException(long);
    return super.transform(value, metadata) as Promise<unknown>;
  }
}
