/** A note in the margin: where its place is on the chart, and what side and height it is written at (pixels). */
export interface MarginNote {
  key: number;
  x: number;
  y: number;
  side: 'left' | 'right';
  top: number;
}

export interface Placed {
  key: number;
  x: number;
  y: number;
}

const NOTE_HEIGHT = 50;
const TOP = 40;
/** Two margins and room for the figure between them. */
const NARROWEST = 560;

/**
 * Writes notes into the two margins, each on the side its place is nearer to, in the order of their places, so that
 * leader lines do not cross; a full margin passes its last notes to the other side, and what fits neither is left out.
 * On a narrow chart the margins would hide the figure, so it has none.
 */
export function placeNotes(places: Placed[], width: number, height: number): MarginNote[] {
  if (width < NARROWEST) return [];
  const most = Math.max(1, Math.floor((height - TOP) / NOTE_HEIGHT));
  const middle = median(places.map((place) => place.x)) ?? width / 2;
  const left = places.filter((place) => place.x < middle);
  const right = places.filter((place) => place.x >= middle);
  while (left.length > most && right.length < most) right.push(left.pop() as Placed);
  while (right.length > most && left.length < most) left.push(right.pop() as Placed);
  return [...column(left.slice(0, most), 'left', height), ...column(right.slice(0, most), 'right', height)];
}

function column(places: Placed[], side: 'left' | 'right', height: number): MarginNote[] {
  const sorted = [...places].sort((a, b) => a.y - b.y);
  const tops = sorted.map((place) => Math.min(Math.max(place.y - 16, TOP), height - NOTE_HEIGHT));
  for (let k = 1; k < tops.length; k++) tops[k] = Math.max(tops[k] ?? 0, (tops[k - 1] ?? 0) + NOTE_HEIGHT);
  // Whatever ran over the foot is pushed back up.
  let foot = height - NOTE_HEIGHT;
  for (let k = tops.length - 1; k >= 0; k--) {
    tops[k] = Math.min(tops[k] ?? 0, foot);
    foot = (tops[k] ?? 0) - NOTE_HEIGHT;
  }
  return sorted.map((place, k) => ({ ...place, side, top: tops[k] ?? 0 }));
}

function median(values: number[]): number | undefined {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
}

/**
 * Of places in order, as many as there is room for: within the chart, at least `apart` pixels from everything kept
 * before, and seen; that is asked last, since it is dear. Coming nearer makes room for more of them.
 */
export function thinnedOut<T extends { x: number; y: number; readonly seen: boolean }>(
  places: Iterable<T>,
  width: number,
  height: number,
  apart: number,
  most: number,
): T[] {
  const kept: T[] = [];
  for (const place of places) {
    if (kept.length === most) break;
    const { x, y } = place;
    if (x < 0 || y < 0 || x > width || y > height) continue;
    if (kept.some((other) => Math.hypot(other.x - x, other.y - y) < apart)) continue;
    if (place.seen) kept.push(place);
  }
  return kept;
}

/** The twelve edges of a box as a path: each corner to those that differ from it on one axis (bits 1, 2 and 4). */
export function boxPath(corners: readonly { x: number; y: number }[]): string {
  return corners
    .flatMap((from, k) =>
      [1, 2, 4].filter((bit) => !(k & bit)).map((bit) => [from, corners[k | bit]] as const),
    )
    .map(([a, b]) => (b ? `M${a.x} ${a.y}L${b.x} ${b.y}` : ''))
    .join('');
}
