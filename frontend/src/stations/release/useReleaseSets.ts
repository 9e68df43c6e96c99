import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';

import {
  api,
  dataOf,
  type FigurePage,
  type JobView,
  type ReleaseSet,
  type ReleaseSets,
  type ReleaseSetView,
} from '../../app/client';
import { usePutBack } from '../../app/PutBack';
import { ended } from '../../app/jobs';

/** The release sets that hold a figure, the one in the address among them, and what is done with them. */
export function useReleaseSets(page: FigurePage) {
  const client = useQueryClient();
  const [address, setAddress] = useSearchParams();
  const sets = useQuery({
    queryKey: ['release-sets', page.id],
    queryFn: () =>
      dataOf<ReleaseSets>(
        api.GET('/api/figures/{number}/release-sets', { params: { path: { number: page.id } } }),
      ),
  });
  const all = sets.data?.sets ?? [];
  const chosen = all.find(({ number }) => String(number) === address.get('set')) ?? all.at(-1) ?? null;
  const choose = (number: number) =>
    setAddress((before) => {
      before.set('set', String(number));
      return before;
    });
  const again = async () => {
    await client.invalidateQueries({ queryKey: ['release-sets'] });
    // What buyers report lies on the figure too.
    await client.invalidateQueries({ queryKey: ['figure', page.id] });
  };
  const begin = useMutation({
    mutationFn: ({ release }: { release: ReleaseSet; then: () => void }) =>
      dataOf<ReleaseSetView>(api.POST('/api/release-sets', { body: release })),
    // What asked may be gone once the sets are looked at again, so it is told first.
    onSuccess: async ({ number }, { then }) => {
      then();
      choose(number);
      await again();
    },
  });
  const change = useMutation({
    mutationFn: ({ of, does }: Does) =>
      does({ path: { number: of.number }, header: { 'If-Match': of.revision } }),
    onSuccess: (_, { then }) => then?.(),
    onSettled: again,
  });
  const back = usePutBack(
    (number) => dataOf(api.POST('/api/release-sets/{number}/back', { params: { path: { number } } })),
    again,
  );
  const issue = useMutation({
    mutationFn: async ({ of, date }: { of: ReleaseSetView; date: string }) => {
      const params = { path: { number: of.number } };
      const done = await ended(
        await dataOf<JobView>(api.POST('/api/release-sets/{number}/issues', { params, body: { date } })),
      );
      if (done.state !== 'done')
        throw new Error(
          done.error || 'Packing was stopped; what was made is kept, and no issue was written.',
        );
    },
    onSettled: again,
  });
  const publish = useMutation({
    mutationFn: async ({ of, offer }: { of: ReleaseSetView; offer: string }) => {
      const params = { path: { number: of.number, offer } };
      const done = await ended(
        await dataOf<JobView>(api.POST('/api/release-sets/{number}/listings/{offer}/publish', { params })),
      );
      if (done.state !== 'done')
        throw new Error(
          done.error || 'Publishing was stopped. Publish again: the shop is asked first what it has already.',
        );
    },
    onSettled: again,
  });
  return {
    all,
    chosen,
    choose,
    unreadable: sets.data?.unreadable ?? 0,
    loading: sets.isLoading,
    busy: begin.isPending || change.isPending || issue.isPending || publish.isPending,
    packing: issue.isPending,
    publishing: publish.isPending,
    error: [sets, begin, change, issue, publish].map(({ error }) => error?.message).find(Boolean) ?? '',
    begin: (release: ReleaseSet, then: () => void) => begin.mutate({ release, then }),
    enter: (of: ReleaseSetView, says: string, release: Partial<ReleaseSet>, then?: () => void) =>
      change.mutate({
        of,
        then,
        does: (params) =>
          dataOf<ReleaseSetView>(
            api.PUT('/api/release-sets/{number}', {
              params,
              body: { release: { ...of.release, ...release }, says },
            }),
          ),
      }),
    issue: (of: ReleaseSetView, date: string) => issue.mutate({ of, date }),
    undo: (of: ReleaseSetView) =>
      change.mutate({
        of,
        does: (params) => dataOf<ReleaseSetView>(api.POST('/api/release-sets/{number}/undo', { params })),
      }),
    redo: (of: ReleaseSetView) =>
      change.mutate({
        of,
        does: (params) => dataOf<ReleaseSetView>(api.POST('/api/release-sets/{number}/redo', { params })),
      }),
    drop: (of: ReleaseSetView) =>
      change.mutate({
        of,
        does: async ({ path }) => {
          await api.DELETE('/api/release-sets/{number}', { params: { path } });
        },
        then: () => back.wentAway(of.number),
      }),
    back,
    publish: (of: ReleaseSetView, offer: string) => publish.mutate({ of, offer }),
    bring: (of: ReleaseSetView, offer: string) =>
      change.mutate({
        of,
        does: ({ path }) =>
          dataOf(
            api.POST('/api/release-sets/{number}/listings/{offer}/reports', {
              params: { path: { ...path, offer } },
            }),
          ),
      }),
  };
}

export type Releases = ReturnType<typeof useReleaseSets>;

interface Does {
  of: ReleaseSetView;
  does: (at: At) => Promise<unknown>;
  then?: (() => void) | undefined;
}

interface At {
  path: { number: number };
  header: { 'If-Match': number };
}
