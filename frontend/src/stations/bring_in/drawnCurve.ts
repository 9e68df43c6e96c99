import type { Pick } from '../../figure/picking';

/** `count` places evenly along a stroke, sunk (figure mm) along the way the skin looks on the whole around each:
 * over a small bump single normals would cross below the skin, and the curve would turn back on itself. */
export function drawnCurve(stroke: Pick[], count: number, sunk: number): Pick['point'][] {
  const places = alongIt(stroke);
  const spacing = (places.at(-1)?.way ?? 0) / Math.max(count - 1, 1);
  const reach = Math.max(spacing, 2 * sunk);
  const kept = Array.from({ length: count }, (_, n) =>
    places.reduce((best, place) => (off(place, n * spacing) < off(best, n * spacing) ? place : best)),
  );
  return [...new Set(kept)].map(({ point, way }) => {
    const near = places.filter((place) => off(place, way) <= reach);
    const looks = point.map((_, axis) => near.reduce((sum, { normal }) => sum + (normal[axis] ?? 0), 0));
    const long = Math.hypot(...looks) || 1;
    return point.map((value, axis) => value - ((looks[axis] ?? 0) / long) * sunk) as Pick['point'];
  });
}

interface Place extends Pick {
  /** How far along the stroke. */
  way: number;
}

function alongIt(stroke: Pick[]): Place[] {
  let way = 0;
  return stroke.map((pick, k) => {
    const { point } = stroke[k - 1] ?? pick;
    way += Math.hypot(...pick.point.map((value, axis) => value - (point[axis] ?? 0)));
    return { ...pick, way };
  });
}

function off({ way }: Place, wanted: number): number {
  return Math.abs(way - wanted);
}
