import { Box3, Matrix4, Quaternion, Vector3, type BufferGeometry } from 'three';

import type { Pick } from '../figure/picking';

type Vector = readonly [number, number, number];

/** A bit that is moved by handles on the chart. */
export interface HandlesAsked {
  name: string;
  /** Blob of its display mesh. */
  display: string;
  /** From figure to print. */
  factor: number;
  /** Does what was proposed. */
  done: (proposal: Proposal) => void;
}

/** How a bit is to be moved (figure mm), turned about the upright (degrees) or grown; or where on the skin it is to sit. */
export interface Proposal {
  by: Vector;
  turn: number;
  grow: number;
  seat: Pick | null;
}

export const NOTHING: Proposal = { by: [0, 0, 0], turn: 0, grow: 1, seat: null };

/** The axes a bit is moved along, as the chart calls them. */
export const AXES = ['across', 'deep', 'up'] as const;

export function boxOf(geometry: BufferGeometry): Box3 {
  if (!geometry.boundingBox) geometry.computeBoundingBox();
  return geometry.boundingBox ?? new Box3();
}

/** The corners of a bit's box as it would be, in the order of their bits: x 1, y 2, z 4. */
export function proposedCorners(box: Box3, { by, turn, grow, seat }: Proposal): Vector[] {
  const middle = box.getCenter(new Vector3());
  const foot = new Vector3(middle.x, middle.y, box.min.z);
  const to = seat ? new Vector3(...seat.point) : foot.clone().add(new Vector3(...by));
  const standing = new Quaternion();
  if (seat) standing.setFromUnitVectors(new Vector3(0, 0, 1), new Vector3(...seat.normal).normalize());
  const about = new Matrix4()
    .makeTranslation(to)
    .multiply(new Matrix4().makeRotationFromQuaternion(standing))
    .multiply(new Matrix4().makeRotationZ((turn * Math.PI) / 180))
    .multiply(new Matrix4().makeScale(grow, grow, grow))
    .multiply(new Matrix4().makeTranslation(foot.negate()));
  return Array.from({ length: 8 }, (_, k) => {
    const corner = new Vector3(
      k & 1 ? box.max.x : box.min.x,
      k & 2 ? box.max.y : box.min.y,
      k & 4 ? box.max.z : box.min.z,
    );
    return corner.applyMatrix4(about).toArray();
  });
}

/** How far along an axis (figure mm) a drag of some pixels goes, where the axis goes so many pixels a figure mm. */
export function alongAxis(drag: readonly [number, number], perMm: readonly [number, number]): number {
  const square = perMm[0] ** 2 + perMm[1] ** 2;
  // An axis that is looked at end on cannot be followed.
  return square < 1e-4 ? 0 : (drag[0] * perMm[0] + drag[1] * perMm[1]) / square;
}

/** What a proposal says in words, print mm. */
export function proposalSays({ by, turn, grow, seat }: Proposal, factor: number): string {
  if (seat) return 'on the skin here';
  const moved = AXES.flatMap((axis, k) => {
    const mm = (by[k] ?? 0) * factor;
    return Math.abs(mm) < 0.005 ? [] : [`${axis} ${mm > 0 ? '+' : '−'}${Math.abs(mm).toFixed(1)} mm`];
  });
  if (turn) moved.push(`turned ${turn.toFixed(0)}°`);
  if (grow !== 1) moved.push(`grown ${grow.toFixed(2)} times`);
  return moved.join(', ');
}
