import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type JobView, type PlanTold, type WantedPlan } from '../app/client';
import { ended, useJob } from '../app/jobs';
import { useState } from 'react';

/** What is to be printed, what came of planning it, and how to change either. */
export function usePlan() {
  const client = useQueryClient();
  const [job, setJob] = useState<JobView | null>(null);
  const running = useJob(job);
  const wanted = useQuery({
    queryKey: ['plan'],
    queryFn: () => dataOf<WantedPlan>(api.GET('/api/plan')),
  });
  const key = wanted.data && JSON.stringify(wanted.data);
  const planned = useQuery({
    queryKey: ['planned', key],
    queryFn: async ({ signal }) => {
      const begun = await dataOf<JobView>(api.POST('/api/plan/made'));
      setJob(begun);
      const done = await ended(begun, signal);
      if (done.state !== 'done') throw new Error(done.error || 'Planning was stopped.');
      const name = String(done.made.plan);
      const told = await dataOf<PlanTold>(api.GET('/api/plans/{name}', { params: { path: { name } } }));
      return { name, told };
    },
    enabled: !!wanted.data?.wanted?.length,
    staleTime: Infinity,
    retry: false,
  });
  const keep = useMutation({
    mutationFn: (body: WantedPlan) => dataOf<WantedPlan>(api.PUT('/api/plan', { body })),
    onSuccess: (held) => client.setQueryData(['plan'], held),
  });
  return {
    wanted: wanted.data ?? null,
    planned: planned.data ?? null,
    planning: planned.isFetching ? running : null,
    error: keep.error?.message ?? planned.error?.message ?? wanted.error?.message ?? '',
    busy: keep.isPending,
    keep: (next: WantedPlan) => keep.mutate(next),
    again: () => void client.invalidateQueries({ queryKey: ['planned', key] }),
  };
}
