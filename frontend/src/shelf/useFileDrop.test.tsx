// @vitest-environment jsdom
import { act, cleanup, renderHook } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import { useFileDrop } from './useFileDrop';

afterEach(cleanup);

function fire(kind: string, files: File[], types = ['Files']) {
  const event = new Event(kind, { bubbles: true, cancelable: true });
  Object.assign(event, { dataTransfer: { files, types } });
  act(() => void window.dispatchEvent(event));
  return event;
}
const sculpt = new File(['solid'], 'heron.stl');

describe('a file held over the sheet', () => {
  it('is seen through every child it crosses, and let go of when it leaves', () => {
    const { result } = renderHook(() => useFileDrop(vi.fn()));
    fire('dragenter', []);
    fire('dragenter', []); // into a child
    fire('dragleave', []); // out of its parent
    expect(result.current).toBe(true);
    fire('dragleave', []);
    expect(result.current).toBe(false);
  });

  it('is taken when dropped, and the browser does not open it', () => {
    const take = vi.fn();
    const { result } = renderHook(() => useFileDrop(take));
    fire('dragenter', []);
    expect(fire('dragover', []).defaultPrevented).toBe(true);
    expect(fire('drop', [sculpt]).defaultPrevented).toBe(true);
    expect(take).toHaveBeenCalledExactlyOnceWith(sculpt);
    expect(result.current).toBe(false);
  });

  it('can be none: text and links stay the browser’s own business', () => {
    const take = vi.fn();
    const { result } = renderHook(() => useFileDrop(take));
    fire('dragenter', [], ['text/plain']);
    expect(result.current).toBe(false);
    expect(fire('drop', [], ['text/plain']).defaultPrevented).toBe(false);
    fire('drop', []);
    expect(take).not.toHaveBeenCalled();
  });
});
