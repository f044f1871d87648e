import { StreamableFile } from '@nestjs/common';

/** A view that was made into JSON in the worker that saw it. */
export const asJson = (json: Uint8Array): StreamableFile => new StreamableFile(json, { type: 'application/json; charset=utf-8' });
