import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import type { ReactNode } from 'react';
import { MemoryRouter } from 'react-router';

interface Answer {
  readonly status?: number;
  readonly body?: unknown;
}
/** What the server was asked, in order: `GET /api/…`, and the body. */
export interface Asked {
  readonly what: string;
  readonly body: unknown;
}

/** A server that answers by method and path (without the query); whatever else is asked is refused. Gives what was asked of it. */
export function answerWith(answers: Readonly<Record<string, Answer | (() => Promise<Answer>)>>): Asked[] {
  const asked: Asked[] = [];
  globalThis.fetch = (async (input: string, { method = 'GET', body }: RequestInit = {}) => {
    const what = `${method} ${input}`;
    asked.push({ what, body: typeof body === 'string' ? (JSON.parse(body) as unknown) : null });
    const found = answers[`${method} ${input.replace(/[?#].*$/, '')}`];
    if (found === undefined) throw new TypeError(`nothing answers ${what}`);
    const { status = 200, body: value = null } = typeof found === 'function' ? await found() : found;
    return { status, ok: status < 400, json: () => Promise.resolve(value) };
  }) as typeof fetch;
  return asked;
}

/** Draws a part of the page with a client of its own, at an address. */
export function show(part: ReactNode, at = '/') {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return {
    client,
    ...render(
      <QueryClientProvider client={client}>
        <MemoryRouter initialEntries={[at]}>{part}</MemoryRouter>
      </QueryClientProvider>,
    ),
  };
}
