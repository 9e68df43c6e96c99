import { Quaternion, Vector3 } from 'three';

const HEIGHTS = [-35, -12, 16, 40, 70];
const TURNS = 24;
/** Cosine of how far aslant a place is still looked at well. */
const WELL = 0.4;

/**
 * The way to look from, nearest to the way one looks from now, so that a place is seen: unhidden, and not too far
 * aslant. Null where there is none. `clear` tells whether nothing hides the place from a way.
 */
export function lookFrom(
  now: Vector3,
  up: Vector3,
  normal: Vector3 | null,
  clear: (way: Vector3) => boolean,
): Vector3 | null {
  const [side, back, upwards] = axesOf(up);
  const ways = HEIGHTS.flatMap((height) =>
    Array.from({ length: TURNS }, (_, k) => {
      const [high, round] = [(height * Math.PI) / 180, (2 * Math.PI * k) / TURNS];
      return new Vector3()
        .addScaledVector(side, Math.cos(high) * Math.cos(round))
        .addScaledVector(back, Math.cos(high) * Math.sin(round))
        .addScaledVector(upwards, Math.sin(high));
    }),
  );
  return (
    ways
      .filter((way) => !normal || way.dot(normal) >= WELL)
      .sort((a, b) => b.dot(now) - a.dot(now))
      .find(clear) ?? null
  );
}

/** Side, back and up of a figure that stands with `up` upwards, turned there by the shortest way. */
export function axesOf(up: Vector3): [Vector3, Vector3, Vector3] {
  const shortest = new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), up.clone().normalize());
  return [
    new Vector3(1, 0, 0).applyQuaternion(shortest),
    new Vector3(0, 1, 0).applyQuaternion(shortest),
    new Vector3(0, 0, 1).applyQuaternion(shortest),
  ];
}
