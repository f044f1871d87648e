import type Joi from 'joi';
import { ProblemError } from '@rootmap/core';

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

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

/** What was sent, as its schema wants it; unknown keys are refused. Throws a `ProblemError`. */
export function checkRequest<T>(schema: Joi.ObjectSchema<T>, value: unknown): T {
  if (isDeep(value)) throw wrongUse(`The request is nested more than ${MOST_DEPTH} deep, as no request is.`);
  const result = schema.validate(value, { abortEarly: true, convert: true, allowUnknown: false });
  if (result.error) throw wrongUse(`The request is not understood: ${result.error.message}.`);
  return result.value;
}

/** The same of a body that is still text. */
export function checkText<T>(schema: Joi.ObjectSchema<T>, text: string): T {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw wrongUse(`The request is not understood: ${error instanceof Error ? error.message : String(error)}.`);
  }
  return checkRequest(schema, value);
}
