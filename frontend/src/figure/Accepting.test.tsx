// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';

import { Accepting } from './Accepting';

afterEach(cleanup);

it('takes a reason of one’s own, and none that says nothing', () => {
  const accept = vi.fn();
  render(<Accepting accept={accept} />);
  const says = screen.getByLabelText('Why it may stay');
  const button = screen.getByText('Accept it');
  fireEvent.change(says, { target: { value: ' a ' } });
  expect(button.hasAttribute('disabled')).toBe(true);
  fireEvent.change(says, { target: { value: ' may bend ' } });
  fireEvent.click(button);
  expect(accept).toHaveBeenCalledExactlyOnceWith('may bend');
  expect(screen.queryByText(/it held in proof/)).toBeNull();
});

it('offers the proof in which exactly this held, by its number', () => {
  const accept = vi.fn();
  render(<Accepting accept={accept} heldIn={3} />);
  fireEvent.click(screen.getByText('it held in proof 3, in exactly this form'));
  expect(accept).toHaveBeenCalledExactlyOnceWith(
    'it held in proof 3, which was printed in exactly this form',
  );
});
