import type { Remedy, Station } from '../app/client';
import { turnLight } from '../app/light';
import { STATION_NAMES, STATIONS } from '../stations/names';
import type { Act } from './Acts';
import type { RowKey } from './KeyRow';

/** What can be done on a figure's sheet; each does nothing where it cannot be done. */
export interface Does {
  apply: () => void;
  preview: () => void;
  next: () => void;
  before: () => void;
  tools: () => void;
  swap: () => void;
  compareWays: () => void;
  turnPlace: (by: number) => void;
  turnRemedy: (by: number) => void;
  showActs: () => void;
  showKeys: () => void;
  undo: () => void;
  redo: () => void;
  leave: () => void;
  go: (station: Station) => void;
}

/** How the sheet is, as far as it decides what can be done. */
export interface Now {
  here: Station;
  remedies: Remedy[];
  canApply: boolean;
  canCompare: boolean;
  canUndo: boolean;
  canRedo: boolean;
  hasNext: boolean;
  hasBefore: boolean;
  hasTools: boolean;
  previewing: boolean;
  besides: boolean;
  swapped: boolean;
}

/** What each key does. */
export function keysOf(does: Does): Record<string, () => void> {
  return {
    a: does.apply,
    p: does.preview,
    j: does.next,
    k: does.before,
    t: does.tools,
    x: does.swap,
    b: does.compareWays,
    ',': () => does.turnPlace(-1),
    '.': () => does.turnPlace(1),
    '[': () => does.turnRemedy(-1),
    ']': () => does.turnRemedy(1),
    n: turnLight,
    '?': does.showKeys,
    '/': does.showActs,
    'ctrl+k': does.showActs,
    u: does.undo,
    U: does.redo,
    'ctrl+z': does.undo,
    'ctrl+Z': does.redo,
    Escape: does.leave,
    ...Object.fromEntries(STATIONS.slice(0, 9).map((station, k) => [String(k + 1), () => does.go(station)])),
  };
}

/** The keys under the notes, in one line: those of what can be done now. All others stand where what they do is. */
export function rowOf(does: Does, now: Now): RowKey[] {
  const some = (can: boolean, key: RowKey) => (can ? [key] : []);
  return [
    ...some(now.canApply, { keys: ['A'], says: 'do it', act: does.apply }),
    ...some(now.remedies.length > 0, {
      keys: ['P'],
      says: now.previewing ? 'as it is' : 'see it first',
      act: does.preview,
      pressed: now.previewing,
    }),
    { keys: ['/'], says: 'by name', act: does.showActs },
    { keys: ['?'], says: 'all keys', act: does.showKeys },
  ];
}

/** The keys that go through what is found at a station. */
export function turnsOf(does: Does, now: Now): RowKey[] {
  return [
    { keys: ['K'], says: 'previous', act: does.before, off: !now.hasBefore },
    { keys: ['J'], says: 'next', act: does.next, off: !now.hasNext },
    ...(now.hasTools ? [{ keys: ['T'], says: 'tools', act: does.tools }] : []),
  ];
}

/** The keys of a note: how it is drawn, and its ways out beside each other. */
export function waysOf(does: Does, now: Now): RowKey[] {
  const compare = { keys: ['B'], says: 'all ways beside each other', act: does.compareWays };
  return [
    {
      keys: ['X'],
      says: now.swapped ? 'larger chart' : 'larger drawing',
      act: does.swap,
      pressed: now.swapped,
    },
    ...(now.canCompare ? [{ ...compare, pressed: now.besides }] : []),
  ];
}

/** What can be done now, by its name; ``applied`` does the remedy with a number, ``chosen`` is the one A does. */
export function actsOf(does: Does, now: Now, applied: (remedy: number) => void, chosen: number): Act[] {
  const { besides, swapped } = now;
  const some = (can: boolean, act: Act) => (can ? [act] : []);
  return [
    ...(now.canApply ? now.remedies : []).map((offered, k) => ({
      name: offered.label,
      ...(k === chosen && { key: 'A' }),
      act: () => applied(k),
    })),
    ...STATIONS.map((station, k) => ({
      name: `Go to ${STATION_NAMES[station]}`,
      ...(k < 9 && { key: String(k + 1) }),
      act: () => does.go(station),
    })),
    ...some(now.hasNext, { name: 'Next finding', key: 'J', act: does.next }),
    ...some(now.hasTools, { name: `Tools of ${STATION_NAMES[now.here]}`, key: 'T', act: does.tools }),
    ...some(now.hasBefore, { name: 'Finding before', key: 'K', act: does.before }),
    ...some(now.canCompare, {
      name: besides ? 'One way at a time' : 'All ways beside each other',
      key: 'B',
      act: does.compareWays,
    }),
    ...some(now.canUndo, { name: 'Undo', key: 'U', act: does.undo }),
    ...some(now.canRedo, { name: 'Redo', key: 'Shift U', act: does.redo }),
    { name: swapped ? 'Larger chart' : 'Larger drawing', key: 'X', act: does.swap },
    { name: 'Turn day into night, or night into day', key: 'N', act: turnLight },
    { name: 'All keys', key: '?', act: does.showKeys },
  ];
}
