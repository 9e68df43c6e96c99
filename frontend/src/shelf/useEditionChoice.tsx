import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { api, dataOf, type FigurePage, type ShelfFigure } from '../app/client';
import { ChoiceField } from '../stations/Fields';

/** Choosing an edition of any figure: the one that is chosen, and the fields to choose it with. */
export function useEditionChoice() {
  const [figure, setFigure] = useState('');
  const [edition, setEdition] = useState('');
  const shelf = useQuery({
    queryKey: ['shelf'],
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
  });
  const page = useQuery({
    queryKey: ['figure', Number(figure), ''],
    queryFn: () =>
      dataOf<FigurePage>(api.GET('/api/figures/{number}', { params: { path: { number: Number(figure) } } })),
    enabled: figure !== '',
  });
  const editions = page.data?.editions ?? [];
  const looked = editions.find(({ id }) => id === edition) ?? editions[0];
  return {
    chosen:
      page.data && looked
        ? { figure: Number(figure), figureName: page.data.name, edition: looked.id, editionName: looked.name }
        : null,
    fields: (
      <>
        <ChoiceField
          label="Figure"
          value={figure}
          options={(shelf.data ?? []).map(({ id, name }) => [String(id), name] as const)}
          change={(next) => {
            setFigure(next);
            setEdition('');
          }}
        />
        <ChoiceField
          label="Edition"
          value={looked?.id ?? ''}
          options={editions.map(({ id, name }) => [id, name] as const)}
          change={setEdition}
        />
      </>
    ),
  };
}
