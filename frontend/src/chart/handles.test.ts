import { Box3, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';

import { alongAxis, NOTHING, proposalSays, proposedCorners } from './handles';

const BOX = new Box3(new Vector3(4, -1, 0), new Vector3(6, 1, 10));
const seat = (normal: [number, number, number]) => ({
  ...NOTHING,
  seat: { point: [0, 0, 5] as [number, number, number], normal, view: normal },
});

/** The least and the greatest of the corners, to a thousandth. */
function reach(corners: (readonly [number, number, number])[]) {
  const box = new Box3().setFromPoints(corners.map((place) => new Vector3(...place)));
  return [...box.min.toArray(), ...box.max.toArray()].map((value) => Math.round(value * 1000) / 1000 + 0);
}

describe('what handles propose', () => {
  it('is the box of the bit moved, turned and grown about the middle of its foot', () => {
    expect(reach(proposedCorners(BOX, NOTHING))).toEqual([4, -1, 0, 6, 1, 10]);
    expect(reach(proposedCorners(BOX, { ...NOTHING, by: [1, 2, 3] }))).toEqual([5, 1, 3, 7, 3, 13]);
    expect(reach(proposedCorners(BOX, { ...NOTHING, grow: 2 }))).toEqual([3, -2, 0, 7, 2, 20]);
    const long = new Box3(new Vector3(0, 0, 0), new Vector3(8, 2, 1));
    expect(reach(proposedCorners(long, { ...NOTHING, turn: 90 }))).toEqual([3, -3, 0, 5, 5, 1]);
  });

  it('stands on the skin the way the skin looks', () => {
    expect(reach(proposedCorners(BOX, seat([0, 0, 1])))).toEqual([-1, -1, 5, 1, 1, 15]);
    expect(reach(proposedCorners(BOX, seat([1, 0, 0])))).toEqual([0, -1, 4, 10, 1, 6]);
  });

  it('is said in print millimetres, and nothing is said of nothing', () => {
    expect(proposalSays(NOTHING, 2)).toBe('');
    expect(proposalSays({ ...NOTHING, by: [1.5, 0, -2] }, 2)).toBe('across +3.0 mm, up −4.0 mm');
    expect(proposalSays({ ...NOTHING, turn: 15, grow: 1.1 }, 2)).toBe('turned 15°, grown 1.10 times');
    expect(proposalSays(seat([0, 0, 1]), 2)).toBe('on the skin here');
  });
});

describe('a drag along an axis', () => {
  it('goes as far as the axis is followed, and nowhere along one that is seen end on', () => {
    expect(alongAxis([30, 40], [6, 8])).toBeCloseTo(5);
    expect(alongAxis([8, -6], [6, 8])).toBe(0);
    expect(alongAxis([50, 50], [0.001, 0])).toBe(0);
  });
});
