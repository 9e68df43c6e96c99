import { describe, expect, it } from 'vitest';

import { bytes, count, duration, mm, roundLength, signed } from './units';

describe('numbers as the page writes them', () => {
  it('gives lengths the digits that can be seen', () => {
    expect([0.3149, 0.996, 4.21, 75, 199.96, 312.4, -0.5].map(mm)).toEqual([
      '0.31',
      '1.00',
      '4.2',
      '75.0',
      '200.0',
      '312',
      '-0.50',
    ]);
  });

  it('says durations as people do, never zero', () => {
    expect([0, 8.4, 89, 90, 3540, 3600, 13_200].map(duration)).toEqual([
      '1 s',
      '8 s',
      '89 s',
      '2 min',
      '59 min',
      '1 h',
      '3 h 40 min',
    ]);
  });

  it('counts, signs and weighs', () => {
    expect(count(1, 'hole')).toBe('1 hole');
    expect(count(12_345, 'vertex', 'vertices')).toBe('12,345 vertices');
    expect([signed(0.4), signed(-0.012)]).toEqual(['+0.40', '−0.01']);
    expect([bytes(12), bytes(999_000), bytes(4_100_000)]).toEqual(['1 kB', '999 kB', '4.1 MB']);
  });

  it('rounds a scale bar down to 1, 2 or 5', () => {
    expect([0.9, 1, 2.4, 4.99, 5, 73, 0.03].map(roundLength)).toEqual([0.5, 1, 2, 2, 5, 50, 0.02]);
  });
});
