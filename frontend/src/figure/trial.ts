import { useQuery } from '@tanstack/react-query';
import { createContext, useContext } from 'react';

import { api, dataOf, type FieldsOf, type JobView, type Step, type TrialResult } from '../app/client';
import { ended } from '../app/jobs';
import type { Change } from './sheet';
import type { FigureActs } from './useFigure';

/** A change that is looked at before it is made. */
export interface Trial {
  /** What is looked at, as text; none where the figure is shown as it is. */
  of: string | null;
  /** Shows the figure as a change would make it, or, for none, as it is. */
  see: (change: Change | null) => void;
  /** What came of it; none while it is tried. */
  tried: TrialResult | null;
  error: string;
}

/** Outside a sheet there is nothing to look at. */
export const TrialContext = createContext<Trial>({ of: null, see: () => undefined, tried: null, error: '' });

export function useTrial(): Trial {
  return useContext(TrialContext);
}

/** What a figure would be like after a change, tried by the server; nothing of it is kept. */
export function useTried(figure: number, build: string | undefined, change: Change | null) {
  return useQuery({
    queryKey: ['tried', build, change],
    queryFn: ({ signal }) => tryOut(figure, build ?? '', change, signal),
    enabled: change !== null && build !== undefined,
    staleTime: Infinity,
    retry: false,
  });
}

async function tryOut(figure: number, build: string, change: Change | null, signal: AbortSignal) {
  if (!change) throw new Error('Nothing was asked for.');
  const job = await dataOf<JobView>(
    api.POST('/api/figures/{number}/trials', {
      params: { path: { number: figure } },
      body: { build, change: sent(change) },
    }),
  );
  const done = await ended(job, signal);
  if (done.state !== 'done') throw new Error(done.error || 'The trial was stopped.');
  return triedAs(done);
}

/** What came of a trial that is done. */
export function triedAs({ made }: JobView): Promise<TrialResult> {
  const path = { name: String(made.tried) };
  return dataOf<TrialResult>(api.GET('/api/tried/{name}', { params: { path } }));
}

function sent(change: Change) {
  switch (change.does) {
    case 'add':
      return { does: 'add' as const, step: { ...change.step } };
    case 'set':
      return { does: 'set' as const, steps: change.steps };
    case 'fields':
      return { does: 'fields' as const, step: change.step.id, values: { ...change.values } };
  }
}

/** Makes a change. */
export function make(acts: FigureActs, change: Change): void {
  switch (change.does) {
    case 'add':
      return acts.addStep(change.says, change.step);
    case 'set':
      return acts.setSteps(change.says, ...change.steps);
    case 'fields':
      return acts.setFields(change.says, change.step, change.values as FieldsOf<Step>);
  }
}
