import { Injectable, type ArgumentMetadata, type PipeTransform } from '@nestjs/common';
import type Joi from 'joi';
import { ProblemError } from '@rootmap/core';

/** Validates a body or query; unknown keys are refused. */
@Injectable()
export class JoiPipe<T> implements PipeTransform<unknown, T> {
  constructor(private readonly schema: Joi.ObjectSchema<T>) {}

  /** The schema for the description of the interface. */
  jsonSchema(): object {
    const standard = this.schema as unknown as { '~standard': { jsonSchema: { input(o: { target: string }): object } } };
    return standard['~standard'].jsonSchema.input({ target: 'draft-2020-12' });
  }

  transform(value: unknown, { type }: Pick<ArgumentMetadata, 'type'>): T {
    if (type === 'body' && value === undefined)
      throw new ProblemError({ code: 'wrong-use', message: 'The request has no body. Send its members as JSON.' });
    const result = this.schema.validate(value ?? {}, { abortEarly: true, convert: true, allowUnknown: false });
    if (result.error) throw new ProblemError({ code: 'wrong-use', message: `The request is not understood: ${result.error.message}.` });
    return result.value;
  }
}
