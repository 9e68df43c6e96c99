import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { useEffect, useSyncExternalStore } from 'react';

import { api, dataOf, type JobView } from './client';

const RESTARTED =
  'The server was started again; everything saved is safe, and what had come whole is taken up by itself. ' +
  'Look whether it is there before you repeat it.';

const jobs = new Map<number, JobView>();
const listeners = new Set<() => void>();

export const isOver = (job: JobView): boolean => ['done', 'failed', 'cancelled'].includes(job.state);

/** Jobs as they were when they last took a turn: words of progress between are left out. */
const turns = new Map<number, JobView>();

function hear(job: JobView): void {
  jobs.set(job.id, job);
  const before = turns.get(job.id);
  if (!before || turnOf(before) !== turnOf(job)) turns.set(job.id, job);
  listeners.forEach((listener) => listener());
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** The newest word of a job, at least as new as what the page came with. */
export function useJob(job: JobView | null | undefined): JobView | null {
  const heard = useSyncExternalStore(subscribe, () => job && jobs.get(job.id));
  return heard ?? job ?? null;
}

const turnOf = ({ state, error, seen }: JobView) => `${state} ${error} ${seen.join()}`;

/** A job as it was when its state, or what it has seen, last changed: words of progress draw nothing anew. */
export function useJobTurn(job: JobView | null | undefined): JobView | null {
  const turn = useSyncExternalStore(subscribe, () => job && turns.get(job.id));
  return turn ?? job ?? null;
}

/** Jobs that are waited for, each with what to do when the server has forgotten it. */
const waited = new Map<number, () => void>();

/** Jobs that only this page looks at, which are left when it is. */
const ours = new Set<number>();

const leave = (id: number) =>
  void api.POST('/api/jobs/{number}/leave', { params: { path: { number: id } }, keepalive: true });

/** Resolves when a job is over. With a signal, the job is left when that is aborted, or the page is closed. */
export function ended(job: JobView, signal?: AbortSignal): Promise<JobView> {
  return new Promise((resolve, reject) => {
    const look = () => {
      const now = jobs.get(job.id) ?? job;
      if (!isOver(now)) return;
      forget();
      resolve(now);
    };
    const left = () => {
      forget();
      leave(job.id);
      reject(new Error('The trial was left.'));
    };
    const forget = () => {
      stop();
      waited.delete(job.id);
      ours.delete(job.id);
      signal?.removeEventListener('abort', left);
    };
    const stop = subscribe(look);
    waited.set(job.id, () => hear({ ...job, state: 'failed', error: RESTARTED }));
    if (signal) ours.add(job.id);
    if (signal?.aborted) left();
    else {
      signal?.addEventListener('abort', left);
      look();
    }
  });
}

/** Sets jobs right after words may have been missed: those the server no longer knows are over. */
async function lookAgain(): Promise<void> {
  const known = await dataOf<JobView[]>(api.GET('/api/jobs'));
  for (const [id, forgotten] of [...waited]) {
    const now = known.find((job) => job.id === id);
    if (now) hear(now);
    else forgotten();
  }
}

/** Has a figure looked at again, unless the page has it as it is now. */
function lookAgainAt(client: QueryClient, figure: number, revision: number): void {
  const pages = client.getQueriesData<{ revision: number }>({ queryKey: ['figure', figure] });
  if (pages.some(([, page]) => page?.revision === revision)) return;
  void client.invalidateQueries({ queryKey: ['figure', figure] });
  void client.invalidateQueries({ queryKey: ['shelf'] });
}

/** Listens to the server's events and has pages look again when a job is over. */
export function useEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource('/api/events');
    source.addEventListener('job', (event) => {
      const job = JSON.parse(event.data as string) as JobView;
      hear(job);
      if (isOver(job)) {
        void client.invalidateQueries({ queryKey: ['shelf'] });
        for (const figure of job.figures) void client.invalidateQueries({ queryKey: ['figure', figure] });
      }
    });
    // What another page changed is looked at again; what this one did, it knows.
    source.addEventListener('changed', (event) => {
      const { kind, id, revision } = JSON.parse(event.data as string) as {
        kind: 'figure' | 'bench' | 'proof' | 'release' | 'plan' | 'painted';
        id: number;
        revision: number;
      };
      if (kind === 'bench') void client.invalidateQueries({ queryKey: ['bench'] });
      else if (kind === 'release') void client.invalidateQueries({ queryKey: ['release-sets'] });
      else if (kind === 'painted') void client.invalidateQueries({ queryKey: ['painted'] });
      else if (kind === 'plan') void client.invalidateQueries({ queryKey: ['plan'] });
      else if (kind === 'proof') {
        void client.invalidateQueries({ queryKey: ['plan'] });
        void client.invalidateQueries({ queryKey: ['stock'] });
        void client.invalidateQueries({ queryKey: ['release-sets'] });
        void client.invalidateQueries({ queryKey: ['proofs'] });
        void client.invalidateQueries({ queryKey: ['figure'] });
      }
      // Word of what this page did itself comes ahead of the answer to it.
      else window.setTimeout(() => lookAgainAt(client, id, revision), 500);
    });
    // Taken up "again", the stream makes up for what was missed; "anew" means that words may be lost.
    source.addEventListener('hello', (event) => {
      if (event.data === 'again') return;
      void client.invalidateQueries();
      if (waited.size) void lookAgain();
    });
    const leaveAll = () => ours.forEach(leave);
    window.addEventListener('pagehide', leaveAll);
    return () => {
      window.removeEventListener('pagehide', leaveAll);
      source.close();
    };
  }, [client]);
}
