import type { Finding, Sounding } from '../app/client';
import { mm } from '../app/units';
import { boxPath, placeNotes, thinnedOut, type MarginNote } from './placing';
import type { View } from './framing';

/** What lies over the chart, where it is seen. */
export interface Overlay {
  notes: (MarginNote & Said)[];
  soundings: { x: number; y: number; wall: number }[];
  ring: { x: number; y: number; radius: number } | null;
  picks: { x: number; y: number }[];
  /** Edges of the box, as a path. */
  box: string | null;
  /** The view it was laid out for. */
  view: View | null;
}

/** What a margin note says. */
interface Said {
  title: string;
  says: string;
  /** Whether it is no finding. */
  plain?: boolean;
}

/** A name in the margin of a place on the chart, figure mm. */
export interface Label extends Said {
  key: number;
  point: [number, number, number];
}

/** Corners of a box, the least and the greatest, figure mm. */
export type Box = readonly [readonly [number, number, number], readonly [number, number, number]];

export const EMPTY: Overlay = { notes: [], soundings: [], ring: null, picks: [], box: null, view: null };

const MOST_NOTES = 16;
/** Pixels between soundings, and how many of them a chart bears. */
const APART = 36;
const MOST_SOUNDINGS = 60;

/** Where soundings and the notes of findings go, as a view shows the figure. */
export function layOut(
  project: View['project'],
  sounded: Sounding[],
  factor: number,
  findings: { number: number; finding: Finding }[],
  chosen: number | null,
  width: number,
  height: number,
  labels: readonly Label[] = [],
): Overlay {
  const first = findings.slice(0, MOST_NOTES);
  const noted =
    chosen === null || first.some(({ number }) => number === chosen)
      ? first
      : [...findings.filter(({ number }) => number === chosen), ...first.slice(0, MOST_NOTES - 1)];
  const places = noted.flatMap(({ number, finding }) =>
    finding.where ? [{ key: number, ...project(finding.where.point) }] : [],
  );
  const named = labels.slice(0, MOST_NOTES).map(({ key, point }) => ({ key, ...project(point) }));
  const byKey = new Map<number, Said>([
    ...noted.map(
      ({ number, finding }) => [number, { title: finding.title, says: shortWhy(finding) }] as const,
    ),
    ...labels.map(({ key, title, says }) => [key, { title, says, plain: true }] as const),
  ]);
  const notes = placeNotes([...places, ...named], width, height).flatMap((note) => {
    const said = byKey.get(note.key);
    return said ? [{ ...note, ...said }] : [];
  });
  const soundings = thinnedOut(
    sounded.map(({ point, normal, wall }) =>
      Object.assign(project(point, normal ?? undefined), { wall: wall * factor }),
    ),
    width,
    height,
    APART,
    MOST_SOUNDINGS,
  );
  const at = places.find((place) => place.key === chosen);
  return {
    notes,
    soundings,
    ring: at ? { x: at.x, y: at.y, radius: 16 } : null,
    picks: [],
    box: null,
    view: null,
  };
}

/** The edges of a box as they are seen. */
export function edgesOf(box: Box, project: View['project']): string {
  const [low, high] = box;
  const corners = Array.from({ length: 8 }, (_, k) =>
    project([(k & 1 ? high : low)[0], (k & 2 ? high : low)[1], (k & 4 ? high : low)[2]]),
  );
  return boxPath(corners);
}

/** What a margin note adds to its title. */
function shortWhy({ code, count, measured, limit, where }: Finding): string {
  if (code === 'thin-wall') {
    return count > 1 ? `${count} places` : where?.extent ? `${mm(where.extent)} mm long` : '';
  }
  if (code === 'island') return `${mm(measured)} mm² at once`;
  if (code === 'open-edges') return `${mm(measured)} mm of rim`;
  if (code === 'too-large-for-printer') return `${mm(measured)} mm of ${mm(limit)}`;
  return '';
}
