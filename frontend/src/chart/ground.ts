import { Box3 } from 'three';

type Point = readonly [number, number, number];

/** Room about what stands on the ground, as a share of its wider side; and half a mark's length, as a share of that. */
const ROOM = 0.15;
const MARK = 0.04;

/** The corners, in order, of a square on the ground under some boxes, and two strokes that cross over the origin. */
export function groundUnder(boxes: readonly Box3[]): { corners: Point[]; middle: Point[] } {
  const all = boxes.reduce((whole, box) => whole.union(box), new Box3());
  const level = all.min.z;
  const wide = Math.max(all.max.x - all.min.x, all.max.y - all.min.y);
  const half = wide * (0.5 + ROOM);
  const x = (all.min.x + all.max.x) / 2;
  const y = (all.min.y + all.max.y) / 2;
  const mark = wide * MARK;
  return {
    corners: [
      [x - half, y - half, level],
      [x + half, y - half, level],
      [x + half, y + half, level],
      [x - half, y + half, level],
    ],
    middle: [
      [-mark, 0, level],
      [mark, 0, level],
      [0, -mark, level],
      [0, mark, level],
    ],
  };
}
