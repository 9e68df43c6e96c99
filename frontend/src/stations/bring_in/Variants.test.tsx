// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, expect, test, vi } from 'vitest';

import type { FigurePage } from '../../app/client';
import type { FigureActs } from '../../figure/useFigure';
import { Variants } from './Variants';

afterEach(cleanup);

function shown(variants: string[], variant: string, differing: number[], busy = false) {
  const acts = { addVariant: vi.fn(), showVariant: vi.fn(), removeVariant: vi.fn(), busy };
  const page = { variants, variant, differing } as unknown as FigurePage;
  render(<Variants page={page} acts={acts as unknown as FigureActs} />);
  return acts;
}

test('a variant is added under a name that is not taken, by Enter', () => {
  const acts = shown(['hooded'], '', []);
  const field = screen.getByLabelText('Name of a new variant');
  const type = (value: string) => {
    fireEvent.change(field, { target: { value } });
    fireEvent.submit(field);
  };
  type('hooded');
  expect(screen.getByText('There is one of that name.')).toBeTruthy();
  expect(acts.addVariant).not.toHaveBeenCalled();
  type('  bare');
  expect(acts.addVariant).toHaveBeenCalledExactlyOnceWith('bare');
});

test('which is shown, and in how much it differs, is said; the others can be shown', () => {
  const acts = shown(['hooded', 'bare'], 'hooded', [1, 4]);
  expect(screen.getByText('is shown, differing in 2 sentences')).toBeTruthy();
  fireEvent.click(screen.getByText('hooded'));
  expect(acts.showVariant).not.toHaveBeenCalled();
  fireEvent.click(screen.getByText('The figure itself'));
  fireEvent.click(screen.getByText('take it out'));
  expect(acts.showVariant).toHaveBeenCalledExactlyOnceWith('');
  expect(acts.removeVariant).toHaveBeenCalledExactlyOnceWith('hooded');
});
