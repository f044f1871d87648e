import { Catch, HttpException, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import type { Response } from 'express';
import type { Logger } from 'pino';
import { explain, ProblemError, type Problem, type WireTrouble } from '@rootmap/core';
import type { ProblemDetails } from '@rootmap/core/contract';
import { diskProblem } from '@rootmap/engine/workbench';

/** What a person sent, or named, cannot be used as it is. */
const UNUSABLE = 400;
const STATUS: Readonly<Record<Problem['code'], number>> = {
  truncated: UNUSABLE,
  'bad-field': UNUSABLE,
  'bad-json': UNUSABLE,
  'too-many-values': UNUSABLE,
  'endless-record': UNUSABLE,
  'wrong-shape': UNUSABLE,
  'not-a-database': UNUSABLE,
  'too-large': UNUSABLE,
  'bad-address': UNUSABLE,
  'bad-name': UNUSABLE,
  protected: UNUSABLE,
  away: UNUSABLE,
  'in-the-cloud': UNUSABLE,
  'bad-bag': UNUSABLE,
  'bad-archive': UNUSABLE,
  'unreadable-note': UNUSABLE,
  unfinished: UNUSABLE,
  'not-a-file': UNUSABLE,
  'two-project-files': UNUSABLE,
  'wrong-use': UNUSABLE,
  cancelled: UNUSABLE,
  'not-found': 404,
  missing: 404,
  'outside-places': 403,
  permission: 403,
  'read-only': 403,
  exists: 409,
  'changed-meanwhile': 409,
  locked: 409,
  'cannot-undo': 409,
  'place-absent': 409,
  'no-service': 502,
  'no-space': 507,
  busy: 423,
  failed: 500,
  io: 500,
};

/** Troubles of a server that was not asked: this one refuses to. */
const OURS: readonly WireTrouble[] = ['private', 'plain-secret', 'not-linked', 'waits'];

const TITLES: Readonly<Record<number, string>> = {
  400: 'The request cannot be used',
  403: 'Not open to this server',
  404: 'Not there',
  409: 'Not possible as things are',
  413: 'The request is too large',
  423: 'Held open elsewhere',
  500: 'It failed',
  502: 'Another server does not answer as it should',
  507: 'The disk is full',
};

/** Every error as problem details (RFC 9457), made from a `Problem`. What is our own fault is logged, and shown without its insides. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  constructor(
    private readonly log: Logger,
    private readonly told: (sentence: string) => string,
  ) {}

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const details = this.toDetails(error);
    if (response.headersSent) return void response.end();
    response.status(details.status).type('application/problem+json').send(JSON.stringify(details));
  }

  private toDetails(error: unknown): ProblemDetails {
    if (error instanceof HttpException) {
      const status = error.getStatus();
      return details(
        status,
        status === 404
          ? 'There is nothing at this address. Check it, or go back to the start page.'
          : `The request is not understood: ${error.message.replace(/[.\s]+$/, '')}. The interface is described at /api/docs.`,
        'http',
      );
    }
    const problem = error instanceof ProblemError ? error.problem : diskProblem(error, (error as { path?: string }).path ?? 'A file');
    if (problem?.code === 'no-service')
      return {
        ...details(OURS.includes(problem.trouble) ? 403 : STATUS[problem.code], explain(problem), problem.code),
        trouble: problem.trouble,
        host: problem.host,
      };
    if (problem) return details(STATUS[problem.code], this.told(explain(problem)), problem.code);
    this.log.error({ err: error }, 'unexpected error');
    return details(
      500,
      'Something went wrong inside the program, and has been written to the log. What was changed until then stands in the journal, which takes it back. Report it if it stays.',
      'internal',
    );
  }
}

const details = (status: number, detail: string, code: string): ProblemDetails => ({
  type: `urn:rootmap:problem:${code}`,
  title: TITLES[status] ?? 'The request cannot be used',
  status,
  detail,
  code,
});
