import { Vector3 } from 'three';
import { describe, expect, it } from 'vitest';

import { lookFrom } from './turning';

const UP = new Vector3(0, 0, 1);
const FRONT = new Vector3(0, -1, 0.2).normalize();

describe('turning to a place', () => {
  it('goes round to what looks away, no farther than it must', () => {
    const right = new Vector3(1, 0, 0);
    const way = lookFrom(FRONT, UP, right, () => true);
    expect(way?.dot(right)).toBeGreaterThanOrEqual(0.4);
    expect(way?.dot(FRONT)).toBeGreaterThan(0.7);
    expect(lookFrom(FRONT, UP, new Vector3(0, 1, 0), () => true)?.y).toBeGreaterThan(0.39);
  });

  it('looks past what hides a place, and gives up where everything does', () => {
    const past = lookFrom(FRONT, UP, null, (way) => way.x > 0.5);
    expect(past?.x).toBeGreaterThan(0.5);
    expect(past?.y).toBeLessThan(0);
    expect(lookFrom(FRONT, UP, null, () => false)).toBeNull();
  });

  it('looks up from below at an underside', () => {
    expect(lookFrom(FRONT, UP, new Vector3(0, 0, -1), () => true)?.z).toBeLessThan(-0.4);
  });
});
