import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';

import { api, dataOf, type Came, type FigurePage, type FigureProofs, type ProofView } from '../../app/client';
import { usePutBack } from '../../app/PutBack';

/** The proofs of a figure in the edition that is looked at, the one in the address among them, and what is done with
 * them. */
export function useProofs(page: FigurePage) {
  const client = useQueryClient();
  const [address, setAddress] = useSearchParams();
  const key = ['proofs', page.id, page.looked];
  const proofs = useQuery({
    queryKey: key,
    queryFn: () =>
      dataOf<FigureProofs>(
        api.GET('/api/figures/{number}/proofs', {
          params: { path: { number: page.id }, query: { edition: page.looked } },
        }),
      ),
  });
  const all = proofs.data?.proofs ?? [];
  const chosen = all.find(({ number }) => String(number) === address.get('proof')) ?? all.at(-1) ?? null;
  const choose = (number: number) =>
    setAddress((before) => {
      before.set('proof', String(number));
      return before;
    });
  const seen = async () => {
    await client.invalidateQueries({ queryKey: ['proofs'] });
    await client.invalidateQueries({ queryKey: ['figure', page.id] });
  };
  const begin = useMutation({
    mutationFn: (asked: Asked) =>
      dataOf<ProofView[]>(
        api.POST('/api/proofs', {
          body: {
            parts: asked.parts.map((line) => ({
              ...{ figure: page.id, edition: page.looked, painted: false },
              ...line,
            })),
            ready: asked.ready,
          },
        }),
      ),
    onSuccess: async (begun) => {
      await seen();
      if (begun[0]) choose(begun[0].number);
    },
  });
  const change = useMutation({
    mutationFn: ({ of, does }: { of: ProofView; does: (at: At) => Promise<unknown> }) =>
      does({ path: { proof: of.number }, header: { 'If-Match': of.revision } }),
    onSettled: seen,
  });
  const back = usePutBack(
    (proof) => dataOf(api.POST('/api/proofs/{proof}/back', { params: { path: { proof } } })),
    seen,
  );
  return {
    state: proofs.data?.state,
    ready: proofs.data?.ready ?? [],
    unreadable: proofs.data?.unreadable ?? 0,
    all,
    chosen,
    choose,
    loading: proofs.isLoading,
    busy: begin.isPending || change.isPending,
    error: proofs.error?.message ?? begin.error?.message ?? change.error?.message ?? '',
    begin: (asked: Asked, then: () => void) => begin.mutate(asked, { onSuccess: then }),
    enter: (of: ProofView, says: string, came: Partial<Came>, then?: () => void) =>
      change.mutate(
        {
          of,
          does: (params) =>
            dataOf<ProofView>(
              api.PUT('/api/proofs/{proof}', { params, body: { came: { ...of.proof.came, ...came }, says } }),
            ),
        },
        { onSuccess: then },
      ),
    undo: (of: ProofView) =>
      change.mutate({
        of,
        does: (params) => dataOf<ProofView>(api.POST('/api/proofs/{proof}/undo', { params })),
      }),
    redo: (of: ProofView) =>
      change.mutate({
        of,
        does: (params) => dataOf<ProofView>(api.POST('/api/proofs/{proof}/redo', { params })),
      }),
    drop: (of: ProofView) =>
      change.mutate(
        {
          of,
          does: async ({ path }) => {
            await api.DELETE('/api/proofs/{proof}', { params: { path } });
          },
        },
        { onSuccess: () => back.wentAway(of.number) },
      ),
    back,
  };
}

interface Asked {
  parts: {
    part: string;
    count: number;
    /** Of another edition than the one that is looked at. */
    edition?: string;
  }[];
  ready: string[];
}

interface At {
  path: { proof: number };
  header: { 'If-Match': number };
}
