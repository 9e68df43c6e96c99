import { Box3, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';

import { lengthOn, placeOf, type Reference } from './references';

const BOX = new Box3(new Vector3(-5, -3, 0), new Vector3(5, 3, 20));
const picture = (seen_from: Reference['seen_from'], more: Partial<Reference> = {}): Reference => ({
  shown: 'h',
  ratio: 2,
  seen_from,
  wide: 10,
  across: 0,
  up: 0,
  ...more,
});
const corner = (reference: Reference, x: number, y: number) =>
  new Vector3(x, y, 0).applyMatrix4(placeOf(reference, BOX)).toArray();

describe('a picture to work from', () => {
  it('stands behind the figure on the ground, its right edge to the right of who looks', () => {
    const [x, y, z] = corner(picture('front'), 0.5, -0.5);
    expect([x, z]).toEqual([5, 0]);
    expect(y).toBeGreaterThan(3);
    expect(corner(picture('front'), 0, 0.5)[2]).toBe(20);
    expect(corner(picture('back'), 0.5, 0)[0]).toBe(-5);
    expect(corner(picture('back'), 0, 0)[1]).toBeLessThan(-3);
    expect(corner(picture('left'), 0.5, 0)[1]).toBe(-5);
    expect(corner(picture('left'), 0, 0)[0]).toBeGreaterThan(5);
    expect(corner(picture('right', { across: 2, up: 1 }), 0.5, -0.5).slice(1)).toEqual([7, 1]);
  });

  it('is measured along a line drawn over it, also when it is looked at askew', () => {
    const line: [number, number][] = [
      [1, 1],
      [2, 9],
      [4, 5],
    ];
    const straight = { view: [0, -1, 0], across: [1, 0, 0], outline: line } as never;
    expect(lengthOn(picture('front'), straight)).toBeCloseTo(5);
    const half = Math.SQRT1_2;
    const askew = { view: [-half, -half, 0], across: [half, -half, 0], outline: line } as never;
    // What is drawn across looks shorter by the cosine of the turn.
    expect(lengthOn(picture('front'), askew)).toBeCloseTo(Math.hypot(3 / half, 4));
    const aside = { view: [-1, 0, 0], across: [0, -1, 0], outline: line } as never;
    expect(lengthOn(picture('front'), aside)).toBeNull();
  });
});
