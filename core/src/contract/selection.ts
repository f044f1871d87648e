import Joi from 'joi';
import { EVERY_RECORD, type Selection, type SelectionArea } from '../feature/selection.js';
import { epsgCode, objectOf, recordId, text } from './shapes.js';
export { EVERY_RECORD, type Selection, type SelectionArea } from '../feature/selection.js';

export const selection = objectOf<Selection>({
  filter: text(4000).default(''),
  area: objectOf<SelectionArea>({
    crs: epsgCode.allow(null).required(),
    corners: Joi.array().items(Joi.array().ordered(Joi.number().required(), Joi.number().required())).min(3).max(10_000).required(),
  })
    .allow(null)
    .default(null),
  records: Joi.array().items(recordId).min(1).max(100_000).allow(null).default(null),
}).default(EVERY_RECORD);
