import { Injectable, type ArgumentMetadata, type PipeTransform } from '@nestjs/common';
import type Joi from 'joi';
import { ProblemError } from '@rootmap/core';

function jsonSchemaOf(schema: Joi.Schema): object {
  const standard = schema as unknown as { '~standard': { jsonSchema: { input(o: { target: string }): object } } };
  return standard['~standard'].jsonSchema.input({ target: 'draft-2020-12' });
}

/** Deeper than any request; what is deeper cannot be handed to another process. */
const MOST_DEPTH = 64;

function isDeep(value: unknown): boolean {
  let level: object[] = typeof value === 'object' && value !== null ? [value] : [];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > MOST_DEPTH) return true;
    level = level.flatMap((v) => Object.values(v).filter((inner): inner is object => typeof inner === 'object' && inner !== null));
  }
  return false;
}

/** Validates a body or query; unknown keys are refused. */
@Injectable()
export class JoiPipe<T> implements PipeTransform<unknown, T> {
  constructor(private readonly schema: Joi.ObjectSchema<T>) {}

  /** The schema for the description of the interface; of one that checks by kind, all kinds. */
  jsonSchema(): object {
    const { metas } = (this.schema as unknown as { $_terms: { metas: readonly { oneOf?: readonly Joi.Schema[] }[] | null } }).$_terms;
    const kinds = (metas ?? []).flatMap((m) => m.oneOf ?? []);
    return kinds.length > 0 ? { oneOf: kinds.map(jsonSchemaOf) } : jsonSchemaOf(this.schema);
  }

  transform(value: unknown, { type }: Pick<ArgumentMetadata, 'type'>): T {
    if (type === 'body' && value === undefined)
      throw new ProblemError({ code: 'wrong-use', message: 'The request has no body. Send its members as JSON.' });
    if (isDeep(value))
      throw new ProblemError({ code: 'wrong-use', message: `The request is nested more than ${MOST_DEPTH} deep, as no request is.` });
    const result = this.schema.validate(value ?? {}, { abortEarly: true, convert: true, allowUnknown: false });
    if (result.error) throw new ProblemError({ code: 'wrong-use', message: `The request is not understood: ${result.error.message}.` });
    return result.value;
  }
}
