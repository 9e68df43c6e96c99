// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import { Bounded } from './Bounded';

let broken: boolean;
function Sheet({ of }: { of: string }) {
  if (broken) throw new Error('on purpose');
  return <p>sheet of {of}</p>;
}
const page = (of: string) => (
  <>
    <p>all else</p>
    <Bounded what="Gauge" of={of}>
      <Sheet of={of} />
    </Bounded>
  </>
);

beforeEach(() => {
  broken = true;
  vi.spyOn(console, 'error').mockImplementation(() => undefined);
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it('an error leaves a sentence in its place, and what is around it', () => {
  render(page('one'));
  expect(screen.getByRole('alert').textContent).toContain('Gauge could not be drawn');
  expect(screen.getByText('all else')).toBeTruthy();
  broken = false;
  fireEvent.click(screen.getByRole('button', { name: 'Try again' }));
  expect(screen.getByText('sheet of one')).toBeTruthy();
});

it('another thing is tried by itself, and what is sound is never drawn from new', () => {
  const { rerender } = render(page('one'));
  broken = false;
  rerender(page('two'));
  const drawn = screen.getByText('sheet of two');
  rerender(page('three'));
  expect(screen.getByText('sheet of three')).toBe(drawn);
});
