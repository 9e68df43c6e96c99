// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, PartRecord } from '../app/client';
import type { FigureActs } from '../figure/useFigure';
import { pointedAt, StandPanel } from './StandPanel';

const contact = (tip: number, load: number) => ({ point: [0, 0, 5], tip_mm: tip, load_N: load });
const part = (stance: object) =>
  ({
    facts: { print_height_mm: 45, stance: { up: [0, 0, 1], show: null, lift: 0, contacts: [], ...stance } },
    estimate: { layers: 900, seconds: 7400 },
  }) as unknown as PartRecord;

afterEach(cleanup);

const none = {
  asked: null,
  picks: [],
  ask: vi.fn(),
  leave: vi.fn(),
  picked: undefined,
  outlined: undefined,
  brush: undefined,
};

function shown(stance: object, kinds: string[] = [], stale = false) {
  const setSteps = vi.fn();
  const switchStep = vi.fn();
  const stood = part(stance);
  const build = { parts: [stood], steps: kinds.map((kind) => ({ kind })) } as unknown as BuildRecord;
  const acts = { setSteps, switchStep, stale, busy: false } as unknown as FigureActs;
  render(<StandPanel build={build} part={stood} acts={acts} picking={none} pointAt={vi.fn()} />);
  return { setSteps, switchStep };
}

describe('how a figure stands', () => {
  it('is said from its lean, its lift and what holds it', () => {
    shown({
      up: [0.6, 0, 0.8],
      lift: 5,
      contacts: [contact(0.2, 0.1), contact(0.37, 0.29)],
      support_ml: 1.2,
    });
    expect(screen.getByRole('heading').textContent).toBe('Leans 37°, held by 2 contacts');
    expect(screen.getByText(/tips 0.20 to 0.37 mm/)).toBeTruthy();
    expect(screen.getByText('at most 0.29 N on one (estimate)')).toBeTruthy();
    expect(screen.getByText('5.0 mm above the plate')).toBeTruthy();
  });

  it('does not offer to take away what is not there', () => {
    shown({});
    expect(screen.getByRole('heading').textContent).toBe('Stands upright on the plate');
    expect(screen.queryByRole('button', { name: 'Take the supports away' })).toBeNull();
  });

  it('is changed by both steps at once, and switches them on again', () => {
    const { setSteps } = shown({ show: [0, -1, 0] });
    fireEvent.click(screen.getByRole('button', { name: 'Lean it the best way and hold it' }));
    expect(setSteps).toHaveBeenCalledExactlyOnceWith(
      expect.any(String),
      { kind: 'orient', values: { up: null, on: true, show_side: [0, -1, 0] } },
      { kind: 'support', values: { on: true } },
    );
  });

  it('loses its supports by switching off the sentence that made them', () => {
    const { switchStep } = shown({ contacts: [contact(0.2, 0.1)], support_ml: 0.1 }, [
      'bring-in',
      'orient',
      'support',
    ]);
    fireEvent.click(screen.getByRole('button', { name: 'Take the supports away' }));
    expect(switchStep).toHaveBeenCalledExactlyOnceWith(2, false);
  });

  it('waits while the figure is checked', () => {
    const { setSteps } = shown({}, [], true);
    fireEvent.click(screen.getByRole('button', { name: 'Hold it upright' }));
    expect(setSteps).not.toHaveBeenCalled();
  });
});

it('pointing at a side leaves a figure that was never turned as it stands', () => {
  const build = (...kinds: string[]) =>
    ({ steps: kinds.map((kind) => ({ kind })) }) as unknown as BuildRecord;
  expect(pointedAt(build('bring-in'), [1, 0, 0]).values).toEqual({ up: [0, 0, 1], show_side: [1, 0, 0] });
  expect(pointedAt(build('bring-in', 'orient'), [1, 0, 0]).values).toEqual({
    on: true,
    show_side: [1, 0, 0],
  });
});
