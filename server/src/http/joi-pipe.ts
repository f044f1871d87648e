import { Injectable, type ArgumentMetadata, type PipeTransform } from '@nestjs/common';
import type Joi from 'joi';
import { ProblemError } from '@rootmap/core';
import { LargeBody, checkLarge } from './body.js';
import { checkRequest } from './body-schema.js';

function jsonSchemaOf(schema: Joi.Schema): object {
  const standard = schema as unknown as { '~standard': { jsonSchema: { input(o: { target: string }): object } } };
  return standard['~standard'].jsonSchema.input({ target: 'draft-2020-12' });
}

/** Validates a body or query; unknown keys are refused. */
@Injectable()
export class JoiPipe<T> implements PipeTransform<unknown, T | Promise<T>> {
  constructor(private readonly schema: Joi.ObjectSchema<T>) {}

  /** The schema for the description of the interface; of one that checks by kind, all kinds. */
  jsonSchema(): object {
    const { metas } = (this.schema as unknown as { $_terms: { metas: readonly { oneOf?: readonly Joi.Schema[] }[] | null } }).$_terms;
    const kinds = (metas ?? []).flatMap((m) => m.oneOf ?? []);
    return kinds.length > 0 ? { oneOf: kinds.map(jsonSchemaOf) } : jsonSchemaOf(this.schema);
  }

  transform(value: unknown, { type }: Pick<ArgumentMetadata, 'type'>): T | Promise<T> {
    if (type === 'body' && value === undefined)
      throw new ProblemError({ code: 'wrong-use', message: 'The request has no body. Send its members as JSON.' });
    if (value instanceof LargeBody) return checkLarge(this.schema, value);
    return checkRequest(this.schema, value ?? {});
  }
}
