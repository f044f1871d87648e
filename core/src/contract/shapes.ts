import Joi from 'joi';
import { EPSG_CODE } from '../crs/epsg-code.js';

/** Parts of requests that several capabilities have. */

export const epsgCode = Joi.string().pattern(EPSG_CODE);

/** Id of a record: its place in the file, or the key of its row. */
export const recordId = Joi.number().integer().min(-Number.MAX_SAFE_INTEGER).max(Number.MAX_SAFE_INTEGER);

/** A band of a raster, from 1. */
export const bandNumber = Joi.number().integer().min(1).max(65_535);
export const threeBands = Joi.array().ordered(bandNumber.required(), bandNumber.required(), bandNumber.required());

/** What checks a value of a type. Of a union of several sorts nothing is known here. */
type SchemaFor<V> = [V] extends [string]
  ? Joi.StringSchema
  : [V] extends [number]
    ? Joi.NumberSchema
    : [V] extends [boolean]
      ? Joi.BooleanSchema
      : [V] extends [readonly unknown[]]
        ? Joi.ArraySchema
        : [V] extends [object]
          ? Joi.ObjectSchema | Joi.AlternativesSchema
          : Joi.Schema;

/** A schema for each member. */
export type MembersOf<T> = { readonly [K in keyof T]-?: unknown extends T[K] ? Joi.Schema : SchemaFor<NonNullable<T[K]>> };

/** The schema of an interface: exactly its members, each with a schema of its sort. Joi's own strict types do not know readonly lists. */
export const objectOf = <T extends object>(members: MembersOf<T>): Joi.ObjectSchema<T> => Joi.object<T>(members);

export const text = (most: number) => Joi.string().allow('').max(most);
