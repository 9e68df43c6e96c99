import { expect, test } from 'vitest';

import type { PartRecord } from '../app/client';
import { inFigure, inPrint } from './axes';

// Laid on its back: the figure's up is the printer's back, twice as large, lifted five.
const facts = {
  factor: 2,
  print_axes: [
    [1, 0, 0],
    [0, 0, 1],
    [0, -1, 0],
  ],
  print_offset_mm: [0, 0, 5],
} as unknown as PartRecord['facts'];

test('a figure that lies on its back is found in the printer', () => {
  expect(inPrint(facts, [1, -3, 4])).toEqual([2, 8, 11]);
});

test('a print point comes back to the figure point it was', () => {
  const point = [0.3, -1.7, 6.2] as const;
  inFigure(facts, inPrint(facts, point)).forEach((value, k) => expect(value).toBeCloseTo(point[k] ?? NaN));
});
