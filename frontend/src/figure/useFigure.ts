import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import {
  api,
  dataOf,
  type BuildRecord,
  type Edition,
  type FieldsOf,
  type FigurePage,
  type Material,
  type NewStep,
  type Printer,
  type Step,
  type StepFields,
} from '../app/client';

/** A figure's page with everything that can be done to it; `build` is the last one that was finished. */
export function useFigure(number: number) {
  const client = useQueryClient();
  const key = ['figure', number];
  const path = { number };
  const page = useQuery({
    queryKey: key,
    queryFn: () => dataOf<FigurePage>(api.GET('/api/figures/{number}', { params: { path } })),
    enabled: Number.isInteger(number),
  });
  const [kept, setKept] = useState<{ number: number; build: BuildRecord } | null>(null);
  const fresh = page.data?.build;
  if (fresh && (kept?.build.key !== fresh.key || kept.number !== number)) setKept({ number, build: fresh });
  const build = fresh ?? (kept?.number === number ? kept.build : null);

  const change = useMutation({
    // One after the other, each on what the one before it left, so that quick keys are not lost.
    scope: { id: `figure ${number}` },
    mutationFn: (act: (seen: number) => Promise<FigurePage>) =>
      act(client.getQueryData<FigurePage>(key)?.revision ?? 0),
    onSuccess: (data) => client.setQueryData(key, data),
    // Somebody else may have changed it: what is shown next is what is there.
    onError: () => client.invalidateQueries({ queryKey: key }),
  });
  const at = (seen: number) => ({ path, header: { 'If-Match': seen } });
  return {
    page,
    build,
    stale: !fresh,
    busy: change.isPending,
    error: change.error?.message ?? '',
    apply: (finding: number, remedy: number, place: number) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(
          api.POST('/api/figures/{number}/remedies', {
            params: at(seen),
            body: { build: build?.key ?? '', finding, remedy, place },
          }),
        ),
      ),
    undo: () =>
      change.mutate((seen) =>
        dataOf<FigurePage>(api.POST('/api/figures/{number}/undo', { params: at(seen) })),
      ),
    redo: () =>
      change.mutate((seen) =>
        dataOf<FigurePage>(api.POST('/api/figures/{number}/redo', { params: at(seen) })),
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
    setEdition: (edition: Edition) =>
      change.mutate((seen) =>
        dataOf<FigurePage>(api.PUT('/api/figures/{number}/edition', { params: at(seen), body: edition })),
      ),
    checkAgain: () =>
      change.mutate(() => dataOf<FigurePage>(api.POST('/api/figures/{number}/builds', { params: { path } }))),
  };
}

export type FigureActs = ReturnType<typeof useFigure>;

/** Printers and materials of the bench. */
export function useBench() {
  const printers = useQuery({
    queryKey: ['printers'],
    queryFn: () => dataOf<Printer[]>(api.GET('/api/bench/printers')),
  });
  const materials = useQuery({
    queryKey: ['materials'],
    queryFn: () => dataOf<Material[]>(api.GET('/api/bench/materials')),
  });
  return { printers: printers.data ?? [], materials: materials.data ?? [] };
}
