import { describe, expect, it } from 'vitest';

import { drawnCurve } from './drawnCurve';

const place = (x: number, z: number, normal: [number, number, number] = [0, 0, 1]) => ({
  point: [x, 0, z] as [number, number, number],
  normal,
  view: [0, -1, 0] as [number, number, number],
});

describe('a curve drawn over the skin', () => {
  it('is spaced by way, not by how fast the hand was', () => {
    const stroke = [
      ...Array.from({ length: 50 }, (_, k) => place(k * 0.02, 2)),
      ...[2, 3, 4].map((x) => place(x, 2)),
    ];
    expect(drawnCurve(stroke, 5, 1).map(([x]) => Math.round(x ?? NaN))).toEqual([0, 1, 2, 3, 4]);
    expect(drawnCurve(stroke, 5, 1).every(([, , z]) => Math.abs((z ?? NaN) - 1) < 1e-9)).toBe(true);
  });

  it('does not turn back on itself below a bump smaller than it is deep', () => {
    const stroke = Array.from({ length: 41 }, (_, k) => {
      const angle = Math.PI * (1 - k / 40);
      return place(0.5 * Math.cos(angle), 0.5 * Math.sin(angle), [Math.cos(angle), 0, Math.sin(angle)]);
    });
    const across = drawnCurve(stroke, 5, 1).map(([x]) => x ?? NaN);
    expect([...across].sort((a, b) => a - b)).toEqual(across);
  });

  it('of a stroke of one place is that place', () => {
    expect(drawnCurve([place(1, 1)], 4, 0)).toEqual([[1, 0, 1]]);
  });
});
