import { Injectable, type PipeTransform } from '@nestjs/common';
import type Joi from 'joi';
import { ProblemError } from '@rootmap/core';

/** Validates a body or query; unknown keys are refused. */
@Injectable()
export class JoiPipe<T> implements PipeTransform<unknown, T> {
  constructor(private readonly schema: Joi.ObjectSchema<T>) {}

  transform(value: unknown): T {
    const result = this.schema.validate(value ?? {}, { abortEarly: true, convert: true, allowUnknown: false });
    if (result.error) throw new ProblemError({ code: 'wrong-use', message: `The request is not understood: ${result.error.message}.` });
    return result.value;
  }
}
