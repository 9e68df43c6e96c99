import type { Remedy, Station } from '../app/client';
import { turnLight } from '../app/light';
import { STATION_NAMES, STATIONS } from '../stations/names';
import type { StationAct } from '../stations/station';
import type { Act } from './Acts';
import type { RowKey } from './KeyRow';

/** What can be done on a figure's sheet; each does nothing where it cannot be done. */
export interface Does {
  apply: () => void;
  preview: () => void;
  next: () => void;
  before: () => void;
  /** Turns to the list of what can be done at the station. */
  showActsHere: () => void;
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
  /** How many acts the station has now. */
  acts: number;
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
    t: does.showActsHere,
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
    ...some(now.acts > 0, {
      keys: ['T'],
      says: now.acts === 1 ? '1 act here' : `${now.acts} acts here`,
      act: does.showActsHere,
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

/** The keys of what can be done at the station. */
export function actKeysOf(acts: StationAct[], open: (act: StationAct) => void): Record<string, () => void> {
  return Object.fromEntries(acts.flatMap((act) => (act.key ? [[act.key, () => open(act)]] : [])));
}

interface Named {
  stationActs: StationAct[];
  openAct: (act: StationAct) => void;
  /** Does the remedy with a number. */
  applied: (remedy: number) => void;
  /** The remedy that A does. */
  chosen: number;
  figure: number;
  /** Opens another sheet. */
  open: (address: string) => void;
}

/** What can be done now, by its name. */
export function byName(does: Does, now: Now, of: Named): Act[] {
  const { besides, swapped } = now;
  const some = (can: boolean, act: Act) => (can ? [act] : []);
  const sheets: [string, string][] = [
    ['Line it up with others', `/line-up?figures=${of.figure}`],
    ['The shelf of bits', `/bits?figure=${of.figure}`],
    ['Versions', `/figures/${of.figure}/versions`],
    ['Back to the shelf', '/'],
  ];
  return [
    ...(now.canApply ? now.remedies : []).map((offered, k) => ({
      name: offered.label,
      ...(k === of.chosen && { key: 'A' }),
      act: () => of.applied(k),
    })),
    ...of.stationActs.map((act) => ({
      name: act.name,
      ...(act.key && { key: act.key.toUpperCase() }),
      act: () => of.openAct(act),
    })),
    ...STATIONS.map((station, k) => ({
      name: `Go to ${STATION_NAMES[station]}`,
      ...(k < 9 && { key: String(k + 1) }),
      act: () => does.go(station),
    })),
    ...some(now.hasNext, { name: 'Next finding', key: 'J', act: does.next }),
    ...some(now.hasBefore, { name: 'Previous finding', key: 'K', act: does.before }),
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
    ...sheets
      .filter(([name]) => of.stationActs.every((act) => act.name !== name))
      .map(([name, address]) => ({ name, act: () => of.open(address) })),
  ];
}
