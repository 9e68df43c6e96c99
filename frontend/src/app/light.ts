import { useSyncExternalStore } from 'react';

/** Which chart is drawn: that of the day, or the night chart. */
export type Light = 'day' | 'night';

const KEPT = 'ulvet-light';
const listeners = new Set<() => void>();

/** What was chosen before, else what the machine is set to. */
export function firstLight(kept: string | null, machineIsDark: boolean): Light {
  if (kept === 'day' || kept === 'night') return kept;
  return machineIsDark ? 'night' : 'day';
}

let light: Light = 'day';

function put(next: Light): void {
  light = next;
  document.documentElement.dataset.light = next;
  listeners.forEach((listener) => listener());
}

/** Draws the page in its first light; before anything is shown. */
export function beginLight(): void {
  put(firstLight(localStorage.getItem(KEPT), window.matchMedia('(prefers-color-scheme: dark)').matches));
}

/** Changes to the other chart, and remembers it. */
export function turnLight(): void {
  put(light === 'day' ? 'night' : 'day');
  localStorage.setItem(KEPT, light);
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export function useLight(): Light {
  return useSyncExternalStore(subscribe, () => light);
}
