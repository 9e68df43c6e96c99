import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { api, dataOf, type JobView, type PlanTold, type PlanView, type WantedPlan } from '../app/client';
import { ended } from '../app/jobs';

const KEY = ['plan'];

/** What is to be printed, what came of planning it, and how to change either. */
export function usePlan() {
  const client = useQueryClient();
  const [job, setJob] = useState<JobView | null>(null);
  const view = useQuery({ queryKey: KEY, queryFn: () => dataOf<PlanView>(api.GET('/api/plan')) });
  const key = view.data && JSON.stringify([view.data.plan, view.data.begun]);
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
    enabled: !!view.data?.plan.wanted?.length,
    // What was planned before stays in sight until the new plan is there.
    placeholderData: (before) => before,
    staleTime: Infinity,
    retry: false,
  });
  const change = useMutation({
    scope: { id: 'plan' },
    mutationFn: (act: (header: { 'If-Match': number }) => Promise<PlanView>) =>
      act({ 'If-Match': client.getQueryData<PlanView>(KEY)?.revision ?? 0 }),
    onSuccess: (after) => client.setQueryData(KEY, after),
    onError: () => client.invalidateQueries({ queryKey: KEY }),
  });
  const wanted = view.data?.plan.wanted?.length ?? 0;
  return {
    view: view.data ?? null,
    planned: wanted ? (planned.data ?? null) : null,
    job: planned.isFetching ? job : null,
    planning: planned.isFetching,
    error: change.error?.message ?? planned.error?.message ?? view.error?.message ?? '',
    busy: change.isPending,
    change: (says: string, values: Partial<WantedPlan>) =>
      change.mutate((header) => {
        const now = client.getQueryData<PlanView>(KEY)?.plan;
        if (!now) throw new Error('The plan is not there yet: wait for it, then change it.');
        const body = { says, plan: { ...now, ...values } };
        return dataOf<PlanView>(api.PUT('/api/plan', { params: { header }, body }));
      }),
    /** Prints one more of a part beside it, or one less. */
    byHand: (act: 'more' | 'less', name: string, plate: number, part: number) =>
      change.mutate((header) => {
        const params = { header, path: { name, plate, part } };
        return dataOf<PlanView>(
          act === 'more'
            ? api.POST('/api/plans/{name}/plates/{plate}/parts/{part}/more', { params })
            : api.POST('/api/plans/{name}/plates/{plate}/parts/{part}/less', { params }),
        );
      }),
    undo: () =>
      change.mutate((header) => dataOf<PlanView>(api.POST('/api/plan/undo', { params: { header } }))),
    redo: () =>
      change.mutate((header) => dataOf<PlanView>(api.POST('/api/plan/redo', { params: { header } }))),
    again: () => void client.invalidateQueries({ queryKey: ['planned', key] }),
  };
}

export type PlanActs = ReturnType<typeof usePlan>;
