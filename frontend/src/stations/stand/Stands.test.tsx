// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, PartRecord } from '../../app/client';
import { keysOf, type CommandHandlers } from '../../figure/commands';
import type { Sheet } from '../../figure/sheet';
import { WholeStation } from '../../testing/wholeStation';
import { station } from './station';
import { pointedAt } from './Stands';
import { unasked } from '../../testing/unasked';

const contact = (tip: number, load: number) => ({ point: [0, 0, 5], tip_mm: tip, load_N: load });
const part = (stance: object) =>
  ({
    facts: { print_height_mm: 45, stance: { up: [0, 0, 1], lift: 0, contacts: [], ...stance } },
    estimate: { layers: 900, seconds: 7400 },
  }) as unknown as PartRecord;

afterEach(cleanup);

const none = unasked();

function shown(stance: object, steps: object[] = [], stale = false) {
  const setSteps = vi.fn();
  const switchStep = vi.fn();
  const addStep = vi.fn();
  const removeStep = vi.fn();
  const stood = part(stance);
  const build = {
    parts: [stood],
    steps: steps.map((step, k) => ({ step: { id: 11 + k, on: true, ...step } })),
  } as unknown as BuildRecord;
  const acts = { setSteps, switchStep, addStep, removeStep, stale, busy: false };
  const page = { id: 1, looked: 'e1' };
  const sheet = { page, build, part: stood, acts, picking: none, busy: stale } as unknown as Sheet;
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { enabled: false } } })}>
      <WholeStation station={station} sheet={sheet} />
    </QueryClientProvider>,
  );
  return { setSteps, switchStep, addStep, removeStep };
}

describe('how a figure stands', () => {
  it('is said from its lean, its lift and what holds it', () => {
    shown({
      up: [0.6, 0, 0.8],
      lift: 5,
      contacts: [contact(0.2, 0.1), contact(0.37, 0.29)],
      support_ml: 1.2,
    });
    expect(screen.getByRole('heading', { level: 2 }).textContent).toBe('Leans 37°, held by 2 contacts');
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
    const { setSteps } = shown({});
    fireEvent.click(screen.getByRole('button', { name: 'Lean it the best way and hold it' }));
    expect(setSteps).toHaveBeenCalledExactlyOnceWith(
      expect.any(String),
      { kind: 'show-side', values: { direction: [0, -1, 0] } },
      { kind: 'orient', values: { up: null, on: true, taken: [] } },
      { kind: 'support', values: { on: true } },
    );
  });

  it('keeps the side that was said to show', () => {
    const { setSteps } = shown({}, [{ kind: 'show-side', direction: [1, 0, 0] }]);
    fireEvent.click(screen.getByRole('button', { name: 'Lean it the best way and hold it' }));
    expect(setSteps.mock.calls[0]?.slice(1).map(({ kind }: { kind: string }) => kind)).toEqual([
      'orient',
      'support',
    ]);
  });

  it('loses its supports by switching off the sentence that made them', () => {
    const { switchStep } = shown({ contacts: [contact(0.2, 0.1)], support_ml: 0.1 }, [
      { kind: 'bring-in' },
      { kind: 'orient' },
      { kind: 'support' },
    ]);
    fireEvent.click(screen.getByRole('button', { name: 'Take the supports away' }));
    expect(switchStep).toHaveBeenCalledExactlyOnceWith(13, false);
  });

  it('waits while the figure is checked', () => {
    const { setSteps } = shown({}, [], true);
    fireEvent.click(screen.getByRole('button', { name: 'Hold it upright' }));
    expect(setSteps).not.toHaveBeenCalled();
  });
});

describe('the side that shows', () => {
  const side = { kind: 'show-side', direction: [0, -1, 0] };

  it('is a sentence of its own, wherever it is pointed at, and turns nothing', () => {
    expect(pointedAt([1, 0, 0])).toEqual({ kind: 'show-side', direction: [1, 0, 0] });
    const { setSteps } = shown({}, [side]);
    expect(screen.getByRole('combobox', { name: 'Side that shows' }).textContent).toBe('front');
    expect(setSteps).not.toHaveBeenCalled();
  });

  it('is taken out again, by the id of its sentence', () => {
    const { removeStep, addStep } = shown({}, [{ kind: 'bring-in' }, side]);
    fireEvent.mouseDown(screen.getByRole('combobox', { name: 'Side that shows' }));
    fireEvent.click(screen.getByRole('option', { name: 'none in particular' }));
    expect(removeStep).toHaveBeenCalledExactlyOnceWith(12);
    expect(addStep).not.toHaveBeenCalled();
  });

  it('that is switched off shows nowhere', () => {
    shown({}, [{ ...side, on: false }]);
    expect(screen.getByRole('combobox', { name: 'Side that shows' }).textContent).toBe('none in particular');
  });
});

it('no act has a key that the sheet has already, and no two have one', () => {
  const stood = part({ contacts: [contact(0.2, 0.1)], support_ml: 0.1 });
  const build = { parts: [stood], steps: [{ step: { kind: 'support', id: 3, on: true } }] };
  const sheet = { page: { id: 1 }, build, part: stood, acts: {}, picking: none, busy: false };
  const keys = (station.acts?.(sheet as unknown as Sheet) ?? []).flatMap(({ key }) => (key ? [key] : []));
  expect(new Set(keys).size).toBe(keys.length);
  const taken = Object.keys(keysOf({} as CommandHandlers));
  expect(keys.filter((key) => taken.includes(key))).toEqual([]);
});
