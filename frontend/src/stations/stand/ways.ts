import { useQuery } from '@tanstack/react-query';

import { api, dataOf, type JobView, type WaysTold } from '../../app/client';
import { ended } from '../../app/jobs';

/** Ways a part could stand, weighed by the server; none while it does. */
export function useWays(figure: number, build: string, part: string, edition: string, wanted: boolean) {
  return useQuery({
    queryKey: ['ways', build, part],
    queryFn: async ({ signal }) => {
      const job = await dataOf<JobView>(
        api.POST('/api/figures/{number}/ways', {
          params: { path: { number: figure }, query: { edition } },
          body: { build, part },
        }),
      );
      const done = await ended(job, signal);
      if (done.state !== 'done') throw new Error(done.error || 'Weighing was stopped.');
      return dataOf<WaysTold>(
        api.GET('/api/ways/{name}', { params: { path: { name: String(done.made.ways) } } }),
      );
    },
    enabled: wanted,
    staleTime: Infinity,
    retry: false,
  });
}
