import type { PartRecord, Printer } from '../app/client';

type Facts = PartRecord['facts'];
type Point = readonly [number, number, number];

/** A figure point in mm as it lies in the printer, print mm. */
export function inPrint({ print_axes: rows, print_offset_mm: offset, factor }: Facts, point: Point): Point {
  const along = (k: 0 | 1 | 2) =>
    factor * (rows[k][0] * point[0] + rows[k][1] * point[1] + rows[k][2] * point[2]) + offset[k];
  return [along(0), along(1), along(2)];
}

/** A print point in mm as a point of the figure, in its own mm and axes. */
export function inFigure(
  { print_axes: [a, b, c], print_offset_mm: offset, factor }: Facts,
  point: Point,
): Point {
  const [x, y, z] = point.map((value, k) => (value - (offset[k] ?? 0)) / factor) as [number, number, number];
  // Rows of a turn lead to print axes, and its columns back.
  const along = (k: 0 | 1 | 2) => a[k] * x + b[k] * y + c[k] * z;
  return [along(0), along(1), along(2)];
}

/** Corners of the printer's plate under a part, as points of the figure. */
export function plateUnder({ facts }: PartRecord, printer: Printer): Point[] {
  const [wide, deep] = printer.volume;
  const corners = [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ] as const;
  return corners.map(([x, y]) => inFigure(facts, [(x * wide) / 2, (y * deep) / 2, 0]));
}
