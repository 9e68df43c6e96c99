import type { Setup } from './client';

/** Where a value of a setting comes from, by its path or that of the group it is in. */
export function originOf({ origins = {} }: Setup['setting'], path: string): string {
  for (let at = path; at; at = at.slice(0, Math.max(at.lastIndexOf('.'), 0))) {
    const kind = origins[at]?.kind;
    if (kind) return kind === 'user' ? 'yours' : kind;
  }
  return 'bench default';
}
