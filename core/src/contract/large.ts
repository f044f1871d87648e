import Joi from 'joi';
import { copiesRequest } from './copies.js';
import { digitiseRequest } from './digitise.js';
import { editRequest } from './edits.js';
import { exportRequest } from './exports.js';
import { importRequest } from './geodatabases.js';
import { intakeRequest } from './intake.js';
import { droppedMapRequest, keepMapRequest } from './lone-maps.js';
import { keepDraftRequest, saveMapRequest } from './maps.js';
import { forgiveRequest, mendRequest, pathsRequest } from './mend.js';
import { classesRequest, layerPictureRequest } from './pictures.js';
import { rehearsalRequest } from './rehearsal.js';
import { replaceRequest } from './replacements.js';

/**
 * Requests that hold what a person chose by the thousand, or a whole map: these may be large (8 MB instead of 256 kB), and are then
 * read and checked in a thread. By name, so that the thread finds the schema of one.
 */
export const LARGE_REQUESTS: Readonly<Record<string, Joi.ObjectSchema>> = {
  classesRequest,
  copiesRequest,
  digitiseRequest,
  droppedMapRequest,
  editRequest,
  exportRequest,
  forgiveRequest,
  importRequest,
  intakeRequest,
  keepDraftRequest,
  keepMapRequest,
  layerPictureRequest,
  mendRequest,
  pathsRequest,
  rehearsalRequest,
  replaceRequest,
  saveMapRequest,
};
