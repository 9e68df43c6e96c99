import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { api, dataOf, type ShelfFigure } from '../app/client';

const KEY = ['shelf'];

/** The figures of the shelf, and what can be done to them there. */
export function useShelf() {
  const client = useQueryClient();
  const figures = useQuery({
    queryKey: KEY,
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
  });
  const [back, setBack] = useState<Back | null>(null);
  const change = useMutation({
    scope: { id: 'shelf' },
    mutationFn: ({ act }: Change) => act(),
    onSuccess: (now, { after }) => {
      client.setQueryData(KEY, now);
      setBack(after);
    },
    onError: () => client.invalidateQueries({ queryKey: KEY }),
  });
  const of = (number: number) => ({ params: { path: { number } } });
  const named = (number: number, name: string) => () =>
    dataOf<ShelfFigure[]>(api.PUT('/api/figures/{number}/name', { ...of(number), body: { name } }));
  const moved = (number: number, collection: string) => () =>
    dataOf<ShelfFigure[]>(
      api.PUT('/api/figures/{number}/collection', { ...of(number), body: { collection } }),
    );
  const all = figures.data ?? [];
  return {
    figures,
    error: change.error?.message ?? '',
    /** What was done last, and what takes it back. */
    said: back?.says ?? '',
    undo: () => back && change.mutate({ act: back.act, after: null }),
    rename: ({ id, name: old }: ShelfFigure, name: string) =>
      change.mutate({
        act: named(id, name),
        after: { says: `${old} is called ${name} now.`, act: named(id, old) },
      }),
    move: (id: number, collection: string) => {
      const figure = all.find((one) => one.id === id);
      if (!figure || figure.collection === collection) return;
      const says = collection
        ? `${figure.name} stands in ${collection} now.`
        : `${figure.name} stands in no collection now.`;
      change.mutate({ act: moved(id, collection), after: { says, act: moved(id, figure.collection) } });
    },
    copy: ({ id }: ShelfFigure) =>
      change.mutate({
        act: () => dataOf<ShelfFigure[]>(api.POST('/api/figures/{number}/copies', of(id))),
        after: null,
      }),
    renameLedge: (name: string, to: string) => {
      const on = all.filter((figure) => figure.collection === name);
      const act = () => dataOf<ShelfFigure[]>(api.PUT('/api/shelf/collections', { body: { name, to } }));
      // Figure by figure, since those that stood there before keep its name.
      const undo = async () => {
        let now = all;
        for (const { id } of on) now = await moved(id, name)();
        return now;
      };
      change.mutate({ act, after: { says: `${name} is called ${to} now.`, act: undo } });
    },
  };
}

type Act = () => Promise<ShelfFigure[]>;

/** What takes a change back. */
interface Back {
  says: string;
  act: Act;
}

interface Change {
  act: Act;
  after: Back | null;
}

export type ShelfActs = ReturnType<typeof useShelf>;
