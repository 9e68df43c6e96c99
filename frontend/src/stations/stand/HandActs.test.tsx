// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { WaysTold } from '../../app/client';
import type { Pick } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { Contacts } from './Contacts';
import { HandActs } from './HandActs';
import { WaysAct } from './WaysAct';

const setSteps = vi.fn();
const ask = vi.fn();
const pick = (x: number): Pick => ({ point: [x, 0, 0], normal: [0, 0, -1], view: [0, 0, 1] });
const contact = (load_N: number, over: object = {}) => ({ point: [0, 0, 5], tip_mm: 0.3, load_N, ...over });
const part = (contacts: object[] = []) => ({
  facts: { part: 'figure', stance: { contacts } },
  source: 'abc',
});

function sheet(steps: object[] = []): Sheet {
  const held = part();
  return {
    page: { id: 1, looked: 'e1' },
    build: { key: 'k', parts: [held], steps },
    part: held,
    acts: { setSteps, stale: false, busy: false },
    picking: { ask, leave: vi.fn(), asked: null },
  } as unknown as Sheet;
}

beforeEach(() => vi.clearAllMocks());
afterEach(cleanup);

const clicked = (...picks: Pick[]) => {
  const asked = ask.mock.calls.at(-1)?.[0] as { then: (picks: Pick[]) => void };
  act(() => asked.then(picks));
};

it('what was clicked is made at once, each place as the recipe keeps it', () => {
  render(<HandActs {...sheet()} />);
  fireEvent.click(screen.getByRole('button', { name: 'Click places on the figure' }));
  clicked(pick(1));
  clicked(pick(2));
  expect(ask).toHaveBeenCalledTimes(3);
  fireEvent.click(screen.getByRole('button', { name: 'Leave out act 1' }));
  fireEvent.click(screen.getByRole('button', { name: 'Hold it so' }));
  expect(setSteps).toHaveBeenCalledExactlyOnceWith('supports by hand, 1 act', {
    kind: 'support',
    values: {
      on: true,
      begin: 'proposal',
      acts: [{ does: 'add', place: 0, to: null, radius: 2, mirrored: false }],
      places: [{ point: [2, 0, 0], normal: [0, 0, -1], source: 'abc' }],
    },
  });
});

it('acts of before are there, and those that found no way say so', () => {
  const step = {
    kind: 'support',
    id: 7,
    on: true,
    acts: [
      { does: 'add', place: 0, to: null, radius: 2, mirrored: true },
      { does: 'forbid', place: 1, to: null, radius: 4, mirrored: false },
    ],
    places: [
      { point: [0, 0, 0], normal: null, source: '' },
      { point: [9, 0, 0], normal: null, source: '' },
    ],
  };
  render(<HandActs {...sheet([{ step, receipt: { undone: [0] } }])} />);
  const [first, second] = screen.getAllByRole('listitem');
  expect(first?.textContent).toContain('A support added, on both sides: no way for it there');
  expect(second?.textContent).toContain('No supports within 4.0 mm');
});

it('contacts that want looking at come first, and all can be seen', () => {
  const contacts = [
    ...Array.from({ length: 9 }, (_, k) => contact(0.1 * k)),
    contact(0, { reachable: false }),
  ];
  render(<Contacts part={part(contacts) as never} />);
  const rows = () => screen.getAllByRole('row').slice(1);
  expect(rows()).toHaveLength(8);
  expect(rows()[0]?.textContent).toContain('no cutters reach it');
  expect(rows()[1]?.textContent).toContain('0.80');
  fireEvent.click(screen.getByRole('button', { name: 'all 10 contacts' }));
  expect(rows()).toHaveLength(10);
});

const way = (name: string, over: object) => ({
  picture: 'p',
  way: {
    ...{ name, up: [0, 0, 1], spin: 0, fits: true, lean_deg: 0, on_plate: true, contacts: 9, on_show: 0 },
    ...{ trapped: 0, islands: 2, support_ml: 0.4, cups: 0, cup_mm2: 0, peak_mm2: 90, jump_mm2: 0 },
    ...{ height_mm: 50, seconds: 7200, steps_mm2: 0, cleanup_min: 5, ...over },
  },
});

it('ways stand beside each other, the least of a row in bold, and the chosen one is taken', () => {
  const told = {
    part: 'figure',
    why: '',
    ways: [way('Upright', {}), way('Lying', { up: [0, -1, 0], contacts: 4 })],
  };
  const client = new QueryClient();
  client.setQueryData(['ways', 'k', 'figure'], told as unknown as WaysTold);
  render(
    <QueryClientProvider client={client}>
      <WaysAct {...sheet()} />
    </QueryClientProvider>,
  );
  const row = screen.getByRole('row', { name: /contacts in all/ });
  expect(row.querySelector('b')?.textContent).toBe('4');
  expect(screen.getByRole('row', { name: /islands/ }).querySelector('b')).toBeNull();
  fireEvent.click(screen.getByRole('radio', { name: 'B Lying' }));
  fireEvent.click(screen.getByRole('button', { name: 'Stand it that way and hold it' }));
  expect(setSteps.mock.calls[0]?.slice(1)).toEqual([
    { kind: 'orient', values: { up: [0, -1, 0], on: true, taken: [] } },
    { kind: 'support', values: { on: true } },
  ]);
});
