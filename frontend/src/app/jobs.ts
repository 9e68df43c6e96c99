import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useSyncExternalStore } from 'react';

import type { JobView } from './client';

const jobs = new Map<number, JobView>();
const listeners = new Set<() => void>();
let snapshot: JobView[] = [];

export const isOver = (job: JobView): boolean => ['done', 'failed', 'cancelled'].includes(job.state);

function hear(job: JobView): void {
  jobs.set(job.id, job);
  snapshot = [...jobs.values()];
  listeners.forEach((listener) => listener());
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** The newest word of a job, at least as new as what the page came with. */
export function useJob(job: JobView | null | undefined): JobView | null {
  const all = useSyncExternalStore(subscribe, () => snapshot);
  return (job && all.find((other) => other.id === job.id)) ?? job ?? null;
}

/** Resolves when a job is over. */
export function ended(job: JobView): Promise<JobView> {
  return new Promise((resolve) => {
    const look = () => {
      const now = jobs.get(job.id) ?? job;
      if (!isOver(now)) return;
      stop();
      resolve(now);
    };
    const stop = subscribe(look);
    look();
  });
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
        if (job.figure !== null) void client.invalidateQueries({ queryKey: ['figure', job.figure] });
      }
    });
    // Taken up "again", the stream makes up for what was missed; "anew" means that words may be lost.
    source.addEventListener('hello', (event) => {
      if (event.data !== 'again') void client.invalidateQueries();
    });
    return () => source.close();
  }, [client]);
}
