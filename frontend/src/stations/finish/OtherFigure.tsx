import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf, type FigurePage, type ShelfFigure } from '../../app/client';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField } from '../Fields';
import { changePlan, planOf, rolesOf, type Scheme } from './plan';

/** Takes over what the roles of another figure are painted with, for those of the same names. */
export function OtherFigure({ build, acts, busy, page }: Pick<Sheet, 'build' | 'acts' | 'busy' | 'page'>) {
  const [figure, setFigure] = useState('');
  const plan = planOf(build);
  const shelf = useQuery({
    queryKey: ['shelf'],
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
  });
  const others = (shelf.data ?? []).filter(({ id }) => id !== page.id);
  const take = useMutation({
    mutationFn: async () => {
      const other = await dataOf<FigurePage>(
        api.GET('/api/figures/{number}', { params: { path: { number: Number(figure) } } }),
      );
      if (!other.build) throw new Error(`${other.name} is still being checked: try again when that is done.`);
      const theirs = planOf(other.build);
      const schemes = (theirs?.schemes ?? []).flatMap((scheme) => {
        const roles = (scheme.roles ?? []).filter(({ role }) => rolesOf(plan).includes(role));
        return roles.length ? [{ ...scheme, roles }] : [];
      });
      if (!schemes.length)
        throw new Error(`${other.name} has no colour for a role that this figure has; nothing was changed.`);
      return { name: other.name, schemes };
    },
    onSuccess: ({ name, schemes }) =>
      changePlan({ build, acts }, `colours of ${name}`, { schemes: merged(plan?.schemes ?? [], schemes) }),
  });
  if (!others.length || !rolesOf(plan).length) return null;
  return (
    <>
      <h3>As another figure is painted</h3>
      <div className="fields two">
        <ChoiceField
          label="Which figure"
          value={figure}
          options={others.map(({ id, name }) => [String(id), name] as const)}
          change={setFigure}
        />
        <button className="ruled" disabled={busy || !figure || take.isPending} onClick={() => take.mutate()}>
          Take over its colours
        </button>
      </div>
      <ErrorLine says={take.error?.message} />
    </>
  );
}

/** Schemes with those of another figure: roles of schemes of one name are taken over, other schemes are added. */
export function merged(mine: readonly Scheme[], theirs: readonly Scheme[]): Scheme[] {
  const kept = mine.map((scheme) => {
    const other = theirs.find(({ name }) => name === scheme.name)?.roles ?? [];
    const own = (scheme.roles ?? []).filter(({ role }) => !other.some((one) => one.role === role));
    return { ...scheme, roles: [...own, ...other] };
  });
  return [...kept, ...theirs.filter(({ name }) => !mine.some((one) => one.name === name))];
}
