import { Injectable, type ArgumentMetadata, type PipeTransform } from '@nestjs/common';
import { ProblemError } from '@rootmap/core';

/** What a part of an address may look like, by its name. Whatever it names is looked up, and never joined to a path. */
export const PARAMS: Readonly<Record<string, { readonly pattern: RegExp; readonly what: string }>> = {
  key: { pattern: /^(map-)?[0-9a-f]{12}$/, what: 'project' },
  id: { pattern: /^[A-Za-z0-9][A-Za-z0-9-]{0,63}$/, what: 'entry' },
  name: { pattern: /^[^/\\\p{Cc}]{1,80}$/u, what: 'place' },
};

/** For every `:param` of every address; those that are checked together have a schema of their own. */
@Injectable()
export class ParamPipe implements PipeTransform {
  transform(value: unknown, { type, data }: ArgumentMetadata): unknown {
    if (type !== 'param' || data === undefined) return value;
    const known = PARAMS[data];
    if (!known) throw new Error(`the part ":${data}" of an address has no schema`);
    if (typeof value === 'string' && known.pattern.test(value)) return value;
    throw new ProblemError({ code: 'not-found', what: known.what, id: String(value).slice(0, 80) });
  }
}
