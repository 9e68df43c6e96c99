// @vitest-environment jsdom
import { act, renderHook } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';

import { usePicking, type Outline, type Pick } from './picking';

const place = (x: number): Pick => ({ point: [x, 0, 0], normal: [0, 0, 1], view: [0, -1, 0] });

describe('picking on the figure', () => {
  it('hands over as many places as were asked for, once, in their order', () => {
    const then = vi.fn();
    const { result } = renderHook(usePicking);
    act(() => result.current.ask({ says: 'Pick two', count: 2, then }));
    act(() => result.current.picked?.(place(1)));
    expect(result.current.picks).toEqual([place(1)]);
    expect(then).not.toHaveBeenCalled();
    act(() => result.current.picked?.(place(2)));
    expect(then).toHaveBeenCalledExactlyOnceWith([place(1), place(2)]);
    expect(result.current.asked).toBeNull();
    act(() => result.current.picked?.(place(3)));
    expect(then).toHaveBeenCalledTimes(1);
  });

  it('forgets what was picked when it is left, or something else is asked', () => {
    const first = vi.fn();
    const second = vi.fn();
    const { result } = renderHook(usePicking);
    act(() => result.current.ask({ says: 'Pick two', count: 2, then: first }));
    act(() => result.current.picked?.(place(1)));
    act(() => result.current.ask({ says: 'Pick one', count: 1, then: second }));
    act(() => result.current.picked?.(place(2)));
    expect(second).toHaveBeenCalledWith([place(2)]);
    act(() => result.current.ask({ says: 'Pick two', count: 2, then: first }));
    act(() => result.current.leave());
    act(() => result.current.picked?.(place(3)));
    expect(first).not.toHaveBeenCalled();
  });

  it('takes one outline where that is asked for, and no picks meanwhile', () => {
    const outlined = vi.fn();
    const { result } = renderHook(usePicking);
    act(() => result.current.ask({ says: 'Draw round it', outlined }));
    expect(result.current.picked).toBeUndefined();
    const drawn = { view: [0, -1, 0], across: [1, 0, 0], outline: [[0, 0]] } as Outline;
    act(() => result.current.outlined?.(drawn));
    expect(outlined).toHaveBeenCalledExactlyOnceWith(drawn);
    expect(result.current.outlined).toBeUndefined();
  });
});
