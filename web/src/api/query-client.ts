import { QueryClient } from '@tanstack/react-query';

/** What the server has answered, for every page and for what is asked on the way to one. */
export const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 5_000, refetchOnWindowFocus: true } },
});
