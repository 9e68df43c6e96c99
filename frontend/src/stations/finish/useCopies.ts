import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type PaintedView } from '../../app/client';
import { usePutBack } from '../../app/PutBack';
import type { Sheet } from '../../figure/sheet';

export type Painted = PaintedView['painted'];

/** The painted copies of a figure, and what can be entered of them. */
export function useCopies({ page }: Pick<Sheet, 'page'>) {
  const client = useQueryClient();
  const key = ['painted', page.id];
  const copies = useQuery({
    queryKey: key,
    queryFn: () =>
      dataOf<PaintedView[]>(
        api.GET('/api/figures/{number}/painted', { params: { path: { number: page.id } } }),
      ),
  });
  const seen = async () => {
    await client.invalidateQueries({ queryKey: key });
    // What was used is taken off the ledger.
    await client.invalidateQueries({ queryKey: ['stock'] });
  };
  const act = useMutation({ mutationFn: (asked: () => Promise<unknown>) => asked(), onSettled: seen });
  const back = usePutBack(
    (copy) => dataOf(api.POST('/api/painted/{copy}/put-back', { params: { path: { copy } } })),
    seen,
  );
  const at = ({ number, revision }: PaintedView) => ({
    path: { copy: number },
    header: { 'If-Match': revision },
  });
  return {
    copies: copies.data ?? [],
    error: act.error?.message ?? copies.error?.message ?? '',
    busy: act.isPending,
    begin: () =>
      act.mutate(() =>
        dataOf(
          api.POST('/api/figures/{number}/painted', {
            params: { path: { number: page.id }, query: { edition: page.looked } },
          }),
        ),
      ),
    enter: (of: PaintedView, says: string, values: Partial<Painted>) =>
      act.mutate(() =>
        dataOf(
          api.PUT('/api/painted/{copy}', {
            params: at(of),
            body: { says, painted: { ...of.painted, ...values } },
          }),
        ),
      ),
    undo: (of: PaintedView) =>
      act.mutate(() => dataOf(api.POST('/api/painted/{copy}/undo', { params: at(of) }))),
    redo: (of: PaintedView) =>
      act.mutate(() => dataOf(api.POST('/api/painted/{copy}/redo', { params: at(of) }))),
    drop: (of: PaintedView) =>
      act.mutate(() => dataOf(api.DELETE('/api/painted/{copy}', { params: { path: { copy: of.number } } })), {
        onSuccess: () => back.wentAway(of.number),
      }),
    back,
  };
}

export type CopyActs = ReturnType<typeof useCopies>;
