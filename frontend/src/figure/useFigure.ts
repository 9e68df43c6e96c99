import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import {
  api,
  dataOf,
  type BuildRecord,
  type Edition,
  type EditionView,
  type FieldsOf,
  type FigurePage,
  type NewStep,
  type Setup,
  type Step,
  type StepFields,
} from '../app/client';

/** A figure's page with everything that can be done to it; `build` is the last one that was finished. */
export function useFigure(number: number, edition: string) {
  const client = useQueryClient();
  const key = ['figure', number, edition];
  const path = { number };
  const page = useQuery({
    queryKey: key,
    queryFn: () => dataOf<FigurePage>(api.GET('/api/figures/{number}', { params: { path } })),
    enabled: Number.isInteger(number),
  });
  const [kept, setKept] = useState<{ of: string; build: BuildRecord } | null>(null);
  const of = `${number} ${edition}`;
  const fresh = page.data?.build;
  if (fresh && (kept?.build.key !== fresh.key || kept.of !== of)) setKept({ of, build: fresh });
  const build = fresh ?? (kept?.of === of ? kept.build : null);

  const [told, setTold] = useState('');
  const tells = (what: string) => (after: FigurePage) => setTold(changedBy(what, page.data, after));
  const change = useMutation({
    onMutate: () => setTold(''),
    // One after the other, each on what the one before it left, so that quick keys are not lost.
    scope: { id: `figure ${number}` },
    mutationFn: (act: (seen: number) => Promise<FigurePage>) =>
      act(client.getQueryData<FigurePage>(key)?.revision ?? 0),
    onSuccess: (data) => {
      client.setQueryData(key, data);
      // What a change is to the other editions is asked for when they are looked at.
      const others = {
        queryKey: ['figure', number],
        predicate: (one: { queryKey: readonly unknown[] }) => one.queryKey[2] !== edition,
      };
      client.removeQueries(others);
      // What is decided about a proof is decided with a remedy.
      void client.invalidateQueries({ queryKey: ['proofs'] });
    },
    // Somebody else may have changed it: what is shown next is what is there.
    onError: () => client.invalidateQueries({ queryKey: key }),
  });
  const at = (seen: number) => ({ path, header: { 'If-Match': seen } });
  const ofEdition = (seen: number, wanted: string) => ({
    path: { ...path, wanted },
    header: { 'If-Match': seen },
  });
  const adds = (body: NewEdition) => (seen: number) =>
    dataOf<FigurePage>(api.POST('/api/figures/{number}/editions', { params: at(seen), body }));
  const lookedAt = (then: Added) => (data: FigurePage) => {
    client.setQueryData(['figure', number, data.looked], data);
    then.done(data.looked);
  };
  return {
    page,
    build,
    stale: !fresh,
    busy: change.isPending,
    error: change.error?.message ?? '',
    apply: (finding: number, remedy: number, place: number, onlyHere = false) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.POST('/api/figures/{number}/remedies', {
            params: at(seen),
            body: { build: build?.key ?? '', finding, remedy, place, only_here: onlyHere },
          }),
        ),
      ),
    /** What the last undo or redo changed. */
    told,
    undo: () =>
      change.mutate(
        (seen) => dataOf<FigurePage>(api.POST('/api/figures/{number}/undo', { params: at(seen) })),
        { onSuccess: tells('Taken back') },
      ),
    redo: () =>
      change.mutate(
        (seen) => dataOf<FigurePage>(api.POST('/api/figures/{number}/redo', { params: at(seen) })),
        { onSuccess: tells('Made again') },
      ),
    editStep: (step: number, field: string, value: number) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/record', { params: at(seen), body: { step, field, value } }),
        ),
      ),
    switchStep: (step: number, on: boolean) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/record/{step}/switch', {
            params: { path: { ...path, step }, header: { 'If-Match': seen } },
            body: { on },
          }),
        ),
      ),
    setFields: <S extends Step>(says: string, { id }: S, values: FieldsOf<S>) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/record/{step}/fields', {
            params: { path: { ...path, step: id }, header: { 'If-Match': seen } },
            body: { says, values: { ...values } },
          }),
        ),
      ),
    switchGroup: (group: string, on: boolean) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/groups', { params: at(seen), body: { group, on } }),
        ),
      ),
    moveGroup: (group: string, by: [number, number, number]) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/groups/place', { params: at(seen), body: { group, by } }),
        ),
      ),
    addVariant: (name: string) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(api.POST('/api/figures/{number}/variants', { params: at(seen), body: { name } })),
      ),
    showVariant: (name: string) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(api.PUT('/api/figures/{number}/variants', { params: at(seen), body: { name } })),
      ),
    removeVariant: (name: string) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.DELETE('/api/figures/{number}/variants', { params: { ...at(seen), query: { name } } }),
        ),
      ),
    moveStep: (step: number, before: number | null) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/record/{step}/place', {
            params: { path: { ...path, step }, header: { 'If-Match': seen } },
            body: { before },
          }),
        ),
      ),
    addStep: (says: string, step: NewStep) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.POST('/api/figures/{number}/record', { params: at(seen), body: { step: { ...step }, says } }),
        ),
      ),
    removeStep: (step: number) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.DELETE('/api/figures/{number}/record/{step}', {
            params: { path: { ...path, step }, header: { 'If-Match': seen } },
          }),
        ),
      ),
    setSteps: (says: string, ...steps: StepFields[]) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/steps', { params: at(seen), body: { steps, says } }),
        ),
      ),
    /** `meant` says which length its size means, if not the height. */
    setEdition: (edition: Edition, meant = '') =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/edition', {
            params: { ...at(seen), query: { sized_by: meant } },
            body: edition,
          }),
        ),
      ),
    addEdition: (asked: NewEdition, then: Added) => change.mutate(adds(asked), { onSuccess: lookedAt(then) }),
    addDraft: (then: Added) =>
      change.mutate(
        (seen) => dataOf<FigurePage>(api.POST('/api/figures/{number}/editions/draft', { params: at(seen) })),
        { onSuccess: lookedAt(then) },
      ),
    addSmallest: (then: Added) =>
      change.mutate(
        (seen) =>
          dataOf<FigurePage>(api.POST('/api/figures/{number}/editions/smallest', { params: at(seen) })),
        { onSuccess: lookedAt(then) },
      ),
    changeEdition: (id: string, asked: NewEdition) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/editions/{wanted}', { params: ofEdition(seen, id), body: asked }),
        ),
      ),
    moveEdition: (id: string, before: string | null) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.PUT('/api/figures/{number}/editions/{wanted}/place', {
            params: ofEdition(seen, id),
            body: { before },
          }),
        ),
      ),
    removeEdition: (id: string, then: Added) =>
      change.mutate(
        (seen) =>
          dataOf<FigurePage>(
            api.DELETE('/api/figures/{number}/editions/{wanted}', { params: ofEdition(seen, id) }),
          ),
        { onSuccess: lookedAt(then) },
      ),
    checkAll: () =>
      change.mutate(() =>
        dataOf<FigurePage>(api.POST('/api/figures/{number}/editions/checks', { params: { path } })),
      ),
    checkAgain: () =>
      change.mutate(() => dataOf<FigurePage>(api.POST('/api/figures/{number}/builds', { params: { path } }))),
  };
}

/** An edition as it is asked for: its name, which length is meant by its size, what is made. */
export type NewEdition = Pick<EditionView, 'name' | 'sized_by' | 'made'>;

interface Added {
  /** Hears which edition is looked at then. */
  done: (edition: string) => void;
}

/** What an undo or redo changed, in words: which editions, or all where it was the record. */
export function changedBy(what: string, before: FigurePage | undefined, after: FigurePage): string {
  if (!before) return '';
  const said = (page: FigurePage) =>
    new Map(page.editions.map(({ id, name, made }) => [id, { name, of: JSON.stringify([name, made]) }]));
  const [was, is] = [said(before), said(after)];
  const names = [...new Map([...was, ...is])]
    .filter(([id]) => was.get(id)?.of !== is.get(id)?.of)
    .map(([, { name }]) => name);
  if (after.editions.length < 2 && before.editions.length < 2) return '';
  const gone =
    before.looked !== after.looked ? ' The edition that was looked at is gone: this is the first.' : '';
  return `${what}, ${names.length ? `of ${names.join(' and ')}` : 'in all editions'}.${gone}`;
}

export type FigureActs = ReturnType<typeof useFigure>;

/** Every setting of the bench with its printer and material. */
export function useSetups(): Setup[] {
  const setups = useQuery({
    queryKey: ['bench', 'setups'],
    queryFn: () => dataOf<Setup[]>(api.GET('/api/setups')),
  });
  return setups.data ?? [];
}
