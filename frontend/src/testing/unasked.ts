import { vi } from 'vitest';

import type { Asked, Picking } from '../figure/picking';

/** For tests: a chart on which nothing is asked for, and what hears of what is. */
export function unasked(ask: (asked: Asked) => void = () => undefined): Picking {
  return {
    asked: null,
    picks: [],
    ask,
    leave: vi.fn(),
    picked: undefined,
    outlined: undefined,
    brush: undefined,
  };
}
