import type { LoggerService } from '@nestjs/common';
import type { Logger } from 'pino';

/** Nest's own messages into the structured log. */
export function nestLogger(log: Logger): LoggerService {
  const write =
    (level: 'info' | 'error' | 'warn' | 'debug') =>
    (message: unknown, ...context: unknown[]): void =>
      log[level]({ context: context.at(-1) }, String(message));
  return { log: write('debug'), error: write('error'), warn: write('warn'), debug: write('debug') };
}
