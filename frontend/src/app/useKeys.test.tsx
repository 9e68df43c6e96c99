// @vitest-environment jsdom
import { cleanup, fireEvent, render } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import { useKeys } from './useKeys';

afterEach(cleanup);

function Sheet({ actions }: { actions: Record<string, () => void> }) {
  useKeys(actions);
  return <input aria-label="field" />;
}

describe('keys of the sheet', () => {
  it('tell apart small, capital and held keys', () => {
    const actions = { u: vi.fn(), U: vi.fn(), 'ctrl+z': vi.fn() };
    render(<Sheet actions={actions} />);
    fireEvent.keyDown(document.body, { key: 'u' });
    fireEvent.keyDown(document.body, { key: 'U' });
    fireEvent.keyDown(document.body, { key: 'z', ctrlKey: true });
    fireEvent.keyDown(document.body, { key: 'z' });
    Object.values(actions).forEach((action) => expect(action).toHaveBeenCalledTimes(1));
  });

  it('are silent while something is written, and for the browser’s own shortcuts', () => {
    const action = vi.fn();
    const { getByLabelText } = render(<Sheet actions={{ a: action }} />);
    fireEvent.keyDown(getByLabelText('field'), { key: 'a' });
    fireEvent.keyDown(document.body, { key: 'a', ctrlKey: true });
    fireEvent.keyDown(document.body, { key: 'a', altKey: true });
    expect(action).not.toHaveBeenCalled();
  });

  it('leave from a field what was begun, but not what lies under an open list', () => {
    const leave = vi.fn();
    const { getByLabelText } = render(<Sheet actions={{ Escape: leave }} />);
    const field = getByLabelText('field');
    fireEvent.keyDown(field, { key: 'Escape' });
    expect(leave).toHaveBeenCalledOnce();
    field.setAttribute('aria-expanded', 'true');
    fireEvent.keyDown(field, { key: 'Escape' });
    expect(leave).toHaveBeenCalledOnce();
  });
});
