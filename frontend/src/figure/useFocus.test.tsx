// @vitest-environment jsdom
import { act, renderHook } from '@testing-library/react';
import { describe, expect, it } from 'vitest';

import type { BuildRecord } from '../app/client';
import { useFocus } from './useFocus';

const built = (key: string, ...codes: string[]) =>
  ({ key, findings: codes.map((code) => ({ code, part: 'figure', station: 'bring-in' })) }) as BuildRecord;

const stood = (build: BuildRecord) =>
  renderHook((now: BuildRecord) => useFocus(now, 'bring-in'), { initialProps: build });

describe('the place in focus', () => {
  it('turns to what a change has brought for whoever is past the findings', () => {
    const focus = stood(built('a', 'origin'));
    act(() => focus.result.current[1](1));
    focus.rerender(built('b', 'origin'));
    expect(focus.result.current[0]).toBe(1);
    focus.rerender(built('c', 'barely-touches', 'origin'));
    expect(focus.result.current[0]).toBe(0);
  });

  it('stays for whoever is at a finding, and at what a station without findings said before', () => {
    const focus = stood(built('a', 'origin', 'open'));
    act(() => focus.result.current[1](1));
    focus.rerender(built('b', 'wide', 'origin', 'open'));
    expect(focus.result.current[0]).toBe(1);
    const none = stood(built('a'));
    none.rerender(built('b', 'open'));
    expect(none.result.current[0]).toBe(0);
  });
});
