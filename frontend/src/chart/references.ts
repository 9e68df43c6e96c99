import { Box3, Matrix4, Vector3 } from 'three';

import type { Outline } from '../figure/picking';

/** A picture to work from, as its step places it: figure mm. */
export interface Reference {
  shown: string;
  ratio: number;
  seen_from: 'front' | 'back' | 'left' | 'right';
  wide: number;
  across: number;
  up: number;
}

/** Which way one looks at the picture, and which way its right edge lies then. */
const LOOKS = {
  front: { forward: new Vector3(0, 1, 0), right: new Vector3(1, 0, 0) },
  back: { forward: new Vector3(0, -1, 0), right: new Vector3(-1, 0, 0) },
  left: { forward: new Vector3(1, 0, 0), right: new Vector3(0, -1, 0) },
  right: { forward: new Vector3(-1, 0, 0), right: new Vector3(0, 1, 0) },
} as const;
const UP = new Vector3(0, 0, 1);
const BEHIND = 0.1;

/** Where a picture of one by one, about its middle, goes: behind the box of the figure as it is looked at. */
export function placeOf({ seen_from, ratio, wide, across, up }: Reference, box: Box3): Matrix4 {
  const { forward, right } = LOOKS[seen_from];
  const tall = wide * ratio;
  const margin = BEHIND * box.getSize(new Vector3()).length();
  const far = Math.max(box.min.dot(forward), box.max.dot(forward)) + margin;
  const middle = new Vector3()
    .addScaledVector(forward, far)
    .addScaledVector(right, across)
    .addScaledVector(UP, up + tall / 2);
  return new Matrix4()
    .makeBasis(right.clone().multiplyScalar(wide), UP.clone().multiplyScalar(tall), forward.clone().negate())
    .setPosition(middle);
}

/** How long a line drawn over the chart is on a picture, from its first place to its last, figure mm; none where the
 * picture is looked at too much from its side. */
export function lengthOn({ seen_from }: Reference, { view, across, outline }: Outline): number | null {
  const toward = new Vector3(...view);
  const side = new Vector3(...across);
  const upwards = toward.clone().cross(side);
  const [first, last] = [outline[0], outline.at(-1)];
  const normal = LOOKS[seen_from].forward;
  const squarely = toward.dot(normal);
  if (!first || !last || Math.abs(squarely) < 0.2) return null;
  const seen = new Vector3()
    .addScaledVector(side, last[0] - first[0])
    .addScaledVector(upwards, last[1] - first[1]);
  return seen.addScaledVector(toward, -seen.dot(normal) / squarely).length();
}
