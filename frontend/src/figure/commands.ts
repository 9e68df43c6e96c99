import type { Remedy, Station } from '../app/client';
import { turnLight } from '../app/light';
import { STATION_NAMES, STATIONS } from '../stations/names';
import type { StationAct } from '../stations/station';
import type { Command } from './CommandSearch';
import type { RowKey } from './KeyRow';

/** What can be done on a figure's sheet; each does nothing where it cannot be done. */
export interface CommandHandlers {
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
  showEditions: () => void;
  undo: () => void;
  redo: () => void;
  leave: () => void;
  go: (station: Station) => void;
}

/** How the sheet is, as far as it decides what can be done. */
export interface SheetState {
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

/** What each key handlers. */
export function keysOf(handlers: CommandHandlers): Record<string, () => void> {
  return {
    a: handlers.apply,
    p: handlers.preview,
    j: handlers.next,
    k: handlers.before,
    t: handlers.showActsHere,
    x: handlers.swap,
    b: handlers.compareWays,
    ',': () => handlers.turnPlace(-1),
    '.': () => handlers.turnPlace(1),
    '[': () => handlers.turnRemedy(-1),
    ']': () => handlers.turnRemedy(1),
    n: turnLight,
    '?': handlers.showKeys,
    e: handlers.showEditions,
    '/': handlers.showActs,
    'ctrl+k': handlers.showActs,
    u: handlers.undo,
    U: handlers.redo,
    'ctrl+z': handlers.undo,
    'ctrl+Z': handlers.redo,
    Escape: handlers.leave,
    ...Object.fromEntries(
      STATIONS.slice(0, 9).map((station, k) => [String(k + 1), () => handlers.go(station)]),
    ),
  };
}

/** The keys under the notes, in one line: those of what can be done now. All others stand where what they do is. */
export function rowOf(handlers: CommandHandlers, state: SheetState): RowKey[] {
  const some = (can: boolean, key: RowKey) => (can ? [key] : []);
  return [
    ...some(state.canApply, { keys: ['A'], says: 'do it', act: handlers.apply }),
    ...some(state.remedies.length > 0, {
      keys: ['P'],
      says: state.previewing ? 'as it is' : 'see it first',
      act: handlers.preview,
      pressed: state.previewing,
    }),
    ...some(state.acts > 0, {
      keys: ['T'],
      says: state.acts === 1 ? '1 act here' : `${state.acts} acts here`,
      act: handlers.showActsHere,
    }),
    { keys: ['/'], says: 'by name', act: handlers.showActs },
    { keys: ['?'], says: 'all keys', act: handlers.showKeys },
  ];
}

/** The keys that go through what is found at a station. */
export function turnsOf(handlers: CommandHandlers, state: SheetState): RowKey[] {
  return [
    { keys: ['K'], says: 'previous', act: handlers.before, off: !state.hasBefore },
    { keys: ['J'], says: 'next', act: handlers.next, off: !state.hasNext },
  ];
}

/** The keys of a note: how it is drawn, and its ways out beside each other. */
export function waysOf(handlers: CommandHandlers, state: SheetState): RowKey[] {
  const compare = { keys: ['B'], says: 'all ways beside each other', act: handlers.compareWays };
  return [
    {
      keys: ['X'],
      says: state.swapped ? 'larger chart' : 'larger drawing',
      act: handlers.swap,
      pressed: state.swapped,
    },
    ...(state.canCompare ? [{ ...compare, pressed: state.besides }] : []),
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
  /** The remedy that A handlers. */
  chosen: number;
  figure: number;
  /** The edition that is looked at. */
  edition: string;
  /** Opens another sheet. */
  open: (address: string) => void;
}

/** What can be done now, by its name. */
export function byName(handlers: CommandHandlers, state: SheetState, of: Named): Command[] {
  const { besides, swapped } = state;
  const some = (can: boolean, act: Command) => (can ? [act] : []);
  const sheets: [string, string][] = [
    ['Line it up with others', `/line-up?figures=${of.figure}`],
    ['The shelf of bits', `/bits?figure=${of.figure}`],
    ['Versions', `/figures/${of.figure}/versions`],
    ['Editions', `/figures/${of.figure}/editions?edition=${of.edition}`],
    ['Bench', '/bench'],
    ['Back to the shelf', '/'],
  ];
  return [
    ...(state.canApply ? state.remedies : []).map((offered, k) => ({
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
      act: () => handlers.go(station),
    })),
    ...some(state.hasNext, { name: 'Next finding', key: 'J', act: handlers.next }),
    ...some(state.hasBefore, { name: 'Previous finding', key: 'K', act: handlers.before }),
    ...some(state.canCompare, {
      name: besides ? 'One way at a time' : 'All ways beside each other',
      key: 'B',
      act: handlers.compareWays,
    }),
    ...some(state.canUndo, { name: 'Undo', key: 'U', act: handlers.undo }),
    ...some(state.canRedo, { name: 'Redo', key: 'Shift U', act: handlers.redo }),
    { name: swapped ? 'Larger chart' : 'Larger drawing', key: 'X', act: handlers.swap },
    { name: 'Turn day into night, or night into day', key: 'N', act: turnLight },
    { name: 'All keys', key: '?', act: handlers.showKeys },
    ...sheets
      .filter(([name]) => of.stationActs.every((act) => act.name !== name))
      .map(([name, address]) => ({ name, act: () => of.open(address) })),
  ];
}
