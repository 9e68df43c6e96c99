import { useSyncExternalStore } from 'react';

/** A value that changes often: who sets it draws nothing anew, who uses it does. */
export interface Value<T> {
  get: () => T;
  set: (next: T) => void;
  subscribe: (listener: () => void) => () => void;
}

export function createValue<T>(first: T): Value<T> {
  let now = first;
  const listeners = new Set<() => void>();
  return {
    get: () => now,
    set: (next) => {
      if (Object.is(next, now)) return;
      now = next;
      listeners.forEach((listener) => listener());
    },
    subscribe: (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
}

export function useValue<T>({ subscribe, get }: Value<T>): T {
  return useSyncExternalStore(subscribe, get);
}
