// @vitest-environment jsdom
import { cleanup, render, screen } from '@testing-library/react';
import { afterEach, expect, it } from 'vitest';

import type { Comparison } from '../app/client';
import { Compared } from './Compared';

const finding = (title: string, measured: number) => ({ title, measured, severity: 'stop', unit: 'mm' });
const facts = (tall: number, volume: number) => ({
  part: 'figure',
  size_mm: [10, 10, tall],
  volume_mm3: volume,
  triangles: 1200,
});
const comparison = {
  matched: [
    { verdict: 'still there', before: finding('Beak', 0.31), after: finding('Beak', 0.4) },
    { verdict: 'new', before: null, after: finding('Pole', 0.2) },
    { verdict: 'fixed', before: finding('Crest', 0.2), after: null },
  ],
  facts_before: [facts(75, 4000)],
  facts_after: [facts(75, 4100)],
  moved: [],
  gone: ['otter'],
  added: [],
} as unknown as Comparison;

afterEach(cleanup);

it('tells what is new before what is left and what is fixed', () => {
  render(<Compared comparison={comparison} />);
  const heads = screen.getAllByRole('heading').map((head) => head.textContent);
  expect(heads).toEqual(['New, 1', 'Still there, 1', 'Fixed, 1']);
});

it('tells how a measure changed, and says nothing twice where it did not', () => {
  render(<Compared comparison={comparison} />);
  expect(screen.getByText(/0.31 to 0.40 mm/)).toBeTruthy();
  expect(screen.getByText('4.00 to 4.10')).toBeTruthy();
  expect(screen.getByText('75.0')).toBeTruthy();
  expect(screen.getByText('No longer there: otter.')).toBeTruthy();
});
