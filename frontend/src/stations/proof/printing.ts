/** Where the simulated printer is, unless it was told otherwise. */
export const STAND_IN = 'http://127.0.0.1:8477';
/** How often a print is looked at. */
export const LOOKS_MS = 1_500;

export const isUnderWay = (state: string | undefined) => state === 'waiting' || state === 'printing';
