import { replaceEqualDeep } from '@tanstack/react-query';

import type { FigurePage } from './client';

/** Of two answers about a figure the later: by its changes, then by whether it is checked. */
export function laterPage(known: unknown, answer: unknown): unknown {
  if (isPage(known) && isPage(answer) && known.id === answer.id && isEarlier(answer, known)) return known;
  return replaceEqualDeep(known, answer);
}

function isEarlier(one: FigurePage, other: FigurePage): boolean {
  return one.changes < other.changes || (one.changes === other.changes && !one.build && other.build !== null);
}

function isPage(value: unknown): value is FigurePage {
  return typeof value === 'object' && value !== null && 'changes' in value;
}
