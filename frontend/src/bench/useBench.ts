import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type BenchView, type ValueRow } from '../app/client';

const KEY = ['bench', 'sheet'];

/** The bench, and what can be done to it. */
export function useBench() {
  const client = useQueryClient();
  const bench = useQuery({ queryKey: KEY, queryFn: () => dataOf<BenchView>(api.GET('/api/bench')) });
  const change = useMutation({
    scope: { id: 'bench' },
    mutationFn: (act: (header: { 'If-Match': number }) => Promise<BenchView>) =>
      act({ 'If-Match': client.getQueryData<BenchView>(KEY)?.revision ?? 0 }),
    onSuccess: (after) => {
      client.setQueryData(KEY, after);
      // Every figure is made with it.
      for (const key of ['figure', 'shelf']) void client.invalidateQueries({ queryKey: [key] });
      void client.invalidateQueries({ queryKey: ['bench', 'setups'] });
    },
    onError: () => client.invalidateQueries({ queryKey: KEY }),
  });
  const set = (act: (header: { 'If-Match': number }) => Promise<BenchView>) => change.mutate(act);
  return {
    bench: bench.data,
    failed: bench.error?.message ?? '',
    busy: change.isPending,
    error: change.error?.message ?? '',
    setValue: (place: string, thing: string, path: string, value: ValueRow['value']) =>
      set((header) =>
        dataOf<BenchView>(
          api.PUT('/api/bench/value', { params: { header }, body: { place, thing, path, value } }),
        ),
      ),
    setDefault: (place: string, thing: string, path: string) =>
      set((header) =>
        dataOf<BenchView>(
          api.PUT('/api/bench/default', { params: { header }, body: { place, thing, path } }),
        ),
      ),
    copy: (place: string, thing: string, name: string, done: (after: BenchView) => void) =>
      change.mutate(
        (header) =>
          dataOf<BenchView>(
            api.POST('/api/bench/things', { params: { header }, body: { place, thing, name } }),
          ),
        { onSuccess: done },
      ),
    retire: (place: string, thing: string, retired: boolean) =>
      set((header) =>
        dataOf<BenchView>(
          api.PUT('/api/bench/retired', { params: { header }, body: { place, thing, retired } }),
        ),
      ),
    undo: () => set((header) => dataOf<BenchView>(api.POST('/api/bench/undo', { params: { header } }))),
    redo: () => set((header) => dataOf<BenchView>(api.POST('/api/bench/redo', { params: { header } }))),
    bringIn: async (file: File) => {
      const text = await file.text();
      set((header) =>
        dataOf<BenchView>(
          api.PUT('/api/bench.json', {
            params: { header },
            body: {},
            bodySerializer: () => text,
            headers: { 'Content-Type': 'application/json' },
          }),
        ),
      );
    },
  };
}

export type BenchActs = ReturnType<typeof useBench>;
