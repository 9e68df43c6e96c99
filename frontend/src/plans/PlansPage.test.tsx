// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { MemoryRouter } from 'react-router';

import type { PlanTold, WantedPlan } from '../app/client';
import { byHandOn, daysOf, shareOf } from './days';
import { Days } from './Days';
import { Plate } from './Plate';
import { Wanted } from './Wanted';

const takes = {
  ...{ parts: 2, layers: 900, tall_mm: 45, seconds: 7200, material_ml: 12, money: 1, peak_mm2: 300 },
  ...{ pull_N: 3, look_s: 1800, lost_ml: 5 },
};
const lying = (name: string, tall: number) => ({
  ...{ name, figure: 1, x: 20, y: 10, turn: 0, tall },
  outlines: [
    [
      [10, 5],
      [30, 5],
      [30, 15],
    ],
  ],
});
const plate = (number: number, over: object = {}) => ({
  ...{ number, printer: 'l6', printer_name: 'Lantern 6', setting_name: 'fine', wide: 130, deep: 72 },
  ...{ cleanup_min: 10, told: { ...takes, ...over }, lying: [lying('Imp', 45), lying('Imp', 45)] },
});
const booked = (task: string, machine: string | null, begin: string, over: string, more: object = {}) => ({
  ...{ task, machine, begin, runs: begin, ends: over, over, late_minutes: 0, waits: false, ...more },
});
const told = {
  plates: [plate(1), plate(2)],
  unfit: [],
  sums: null,
  machines: [{ id: 'l6', name: 'Lantern 6', places: 1 }],
  tasks: [
    { id: 'p1', says: 'plate 1', hands_before: 10, hands_after: 12 },
    { id: 'c1', says: 'clean up plate 1', hands_before: 30, hands_after: 0 },
  ],
  schedule: {
    booked: [
      booked('p1', 'l6', '2026-12-07T09:00:00', '2026-12-08T09:12:00', { waits: true }),
      booked('c1', null, '2026-12-08T10:00:00', '2026-12-08T10:30:00', { late_minutes: 90 }),
    ],
    ...{ ready: '2026-12-08T10:30:00', bound: '2026-12-08T10:00:00', bound_by: 'hands', method: 'm' },
  },
  why: '',
} as unknown as PlanTold;

afterEach(cleanup);

describe('days', () => {
  const days = daysOf(told.schedule as NonNullable<PlanTold['schedule']>);

  it('go from the midnight before the first task to the one after the last', () => {
    expect(days.map((one) => one.getDate())).toEqual([7, 8]);
    expect(shareOf('2026-12-07T12:00:00', days)).toBeCloseTo(0.25);
    expect(shareOf('2026-12-08T12:00:00', days)).toBeCloseTo(0.75);
  });

  it('say what hands do on each, in the order of the clock', () => {
    const [first, second] = days as [Date, Date];
    expect(byHandOn(told, first)).toEqual([
      { at: '2026-12-07T09:00:00', says: 'begin plate 1 on Lantern 6' },
    ]);
    expect(byHandOn(told, second).map(({ says }) => says)).toEqual([
      'take plate 1 off Lantern 6',
      'clean up plate 1',
    ]);
    expect(byHandOn(told, second)[0]?.at).toBe('2026-12-08T09:00:00');
  });

  it('are drawn a line a machine, late and waiting ones marked, and a day can be looked at', () => {
    render(<Days told={told} />);
    expect(screen.getByTitle(/^plate 1: .*keeps its machine/).dataset.waits).toBe('true');
    expect(screen.getByTitle(/^clean up plate 1: .*1.5 h late/).dataset.late).toBe('true');
    fireEvent.click(screen.getByRole('button', { name: 'Tue 8' }));
    const list = screen.getByRole('list', { name: /^By hand on Tuesday/ });
    expect(
      within(list)
        .getAllByRole('listitem')
        .map((one) => one.textContent),
    ).toEqual(['09:00 take plate 1 off Lantern 6', '10:00 clean up plate 1']);
  });
});

it('a plate says what it takes and what may be lost, and the next one is a key away', () => {
  const show = vi.fn();
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Plate plate={told.plates[0] as never} plates={told.plates} show={show} />
    </QueryClientProvider>,
  );
  expect(screen.getByText('2 x Imp')).toBeTruthy();
  expect(screen.getByText(/torn off with 3.0 N.*up to 5.0 ml.*first after 30 min/)).toBeTruthy();
  fireEvent.keyDown(document.body, { key: 'j' });
  expect(show).toHaveBeenCalledExactlyOnceWith(2);
  fireEvent.keyDown(document.body, { key: 'k' });
  expect(show).toHaveBeenCalledTimes(1);
});

it('what is wanted is left out, limited and planned again', () => {
  const keep = vi.fn();
  const again = vi.fn();
  const wanted = {
    wanted: [
      { figure: 1, count: 3 },
      { figure: 2, count: 1 },
    ],
    most_parts: null,
  } as WantedPlan;
  const client = new QueryClient({ defaultOptions: { queries: { enabled: false } } });
  client.setQueryData(
    ['shelf'],
    [
      { id: 1, name: 'Imp' },
      { id: 2, name: 'Otter' },
    ],
  );
  render(
    <MemoryRouter>
      <QueryClientProvider client={client}>
        <Wanted wanted={wanted} busy={false} keep={keep} again={again} />
      </QueryClientProvider>
    </MemoryRouter>,
  );
  expect(screen.getByText('3 x Imp')).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'Leave out Imp' }));
  expect(keep).toHaveBeenLastCalledWith({ ...wanted, wanted: [{ figure: 2, count: 1 }] });
  fireEvent.change(screen.getByRole('textbox', { name: /Parts on a plate/ }), { target: { value: '4' } });
  fireEvent.click(screen.getByRole('button', { name: 'Keep to that many' }));
  expect(keep).toHaveBeenLastCalledWith({ ...wanted, most_parts: 4 });
  fireEvent.click(screen.getByRole('button', { name: /plan again/ }));
  expect(again).toHaveBeenCalledOnce();
});
