// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import { EditableNumber } from './Record';

afterEach(cleanup);

function edit(save: (value: number) => void, typed: string, key: string) {
  render(<EditableNumber value={0.6} unit="mm" label="wall" save={save} />);
  fireEvent.click(screen.getByRole('button', { name: 'wall, 0.60 mm; edit' }));
  const input = screen.getByLabelText('wall in mm');
  fireEvent.change(input, { target: { value: typed } });
  fireEvent.keyDown(input, { key });
}

describe('a number in a sentence', () => {
  it('is kept by Enter, with a comma or a point', () => {
    const save = vi.fn();
    edit(save, '0,8', 'Enter');
    expect(save).toHaveBeenCalledExactlyOnceWith(0.8);
  });

  it('is left as it was by Escape, by no change, and while it is no number', () => {
    const save = vi.fn();
    edit(save, '0.8', 'Escape');
    cleanup();
    edit(save, '0.60', 'Enter');
    cleanup();
    for (const wrong of ['', 'thick', '-1']) {
      edit(save, wrong, 'Enter');
      expect(screen.getByLabelText('wall in mm').getAttribute('aria-invalid')).toBe('true');
      cleanup();
    }
    expect(save).not.toHaveBeenCalled();
  });

  it('does not hand its keys to the sheet, where they mean other things', () => {
    const pressed = vi.fn();
    window.addEventListener('keydown', pressed);
    edit(vi.fn(), '7', 'a');
    window.removeEventListener('keydown', pressed);
    expect(pressed).not.toHaveBeenCalled();
  });
});
