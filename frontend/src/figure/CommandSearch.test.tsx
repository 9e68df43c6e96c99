// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';

import { CommandSearch } from './CommandSearch';

afterEach(cleanup);

function opened() {
  const undo = vi.fn();
  const stand = vi.fn();
  const close = vi.fn();
  const acts = [
    { name: 'Undo', key: 'U', act: undo },
    { name: 'Go to Stand', key: '7', act: stand },
  ];
  render(<CommandSearch open close={close} commands={acts} />);
  return { undo, stand, close, input: screen.getByLabelText('A part of its name', { selector: 'input' }) };
}

it('does what its name is typed for, and leaves', () => {
  const { undo, stand, close, input } = opened();
  fireEvent.change(input, { target: { value: 'sta' } });
  fireEvent.keyDown(input, { key: 'Enter' });
  expect(stand).toHaveBeenCalledOnce();
  expect(undo).not.toHaveBeenCalled();
  expect(close).toHaveBeenCalledOnce();
});

it('does nothing for a name that nothing has', () => {
  const { undo, stand, input } = opened();
  fireEvent.change(input, { target: { value: 'paint' } });
  expect(screen.getByText('Nothing here goes by that name.')).toBeTruthy();
  fireEvent.keyDown(input, { key: 'Enter' });
  expect(undo).not.toHaveBeenCalled();
  expect(stand).not.toHaveBeenCalled();
});
