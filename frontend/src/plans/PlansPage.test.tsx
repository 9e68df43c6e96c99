// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { MemoryRouter } from 'react-router';

import type { PlanTold, WantedPlan } from '../app/client';
import { byHandOn, daysOf, handsByHour, momentAt, shareOf } from './days';
import { Days } from './Days';
import { handPlates, movedTo } from './handPlaced';
import { Plate } from './Plate';
import { Sums } from './Sums';
import { Wanted } from './Wanted';

type Lying = PlanTold['plates'][number]['lying'][number];

vi.mock('../app/client', async (original) => ({
  ...(await original<object>()),
  api: (await import('../testing/answering')).answering(() => ({
    data: { meet: [[0, 1]], off: [] },
    response: { ok: true },
  })),
}));

const takes = {
  ...{ parts: 2, layers: 900, tall_mm: 45, seconds: 7200, material_ml: 12, money: 1, peak_mm2: 300 },
  ...{ pull_N: 3, look_s: 1800, lost_ml: 5 },
};
const lying = (name: string, tall: number): Lying => ({
  ...{ name, figure: 1, edition: 'e1', part: 'p', layers: 'a', x: 20, y: 10, turn: 0, tall, by_hand: false },
  ...{ pull_N: 2.14, foot_mm2: 84.4 },
  outlines: [
    [
      [-10, -5],
      [10, -5],
      [10, 5],
    ],
  ],
});
const plate = (number: number, over: object = {}) => ({
  ...{ number, printer: 'l6', printer_name: 'Lantern 6', setting_name: 'fine', wide: 130, deep: 72 },
  ...{ told: { ...takes, ...over }, lying: [lying('Imp', 45), lying('Imp', 45)] },
  ...{ tag: `t${number}`, setting: 's', margin: 2, ready: [], card: [['layer', '0.05 mm']] },
});
const booked = (task: string, machine: string | null, begin: string, over: string, more: object = {}) => ({
  ...{ task, machine, begin, runs: begin, ends: over, over, late_minutes: 0, waits: false, ...more },
});
const told = {
  plates: [plate(1), plate(2)],
  ...{ unfit: [], changed: [], short: [], sums: null },
  machines: [
    { id: 'l6', name: 'Lantern 6', places: 1 },
    { id: 'l7', name: 'Lantern 7', places: 1 },
  ],
  tasks: [
    { id: 'p1', says: 'plate 1', hands_before: 10, hands_after: 12, machines: ['l6', 'l7'] },
    { id: 'clean-proof-4', says: 'clean up proof 4', hands_before: 30, hands_after: 0, machines: [] },
  ],
  away: [['2026-12-07T18:00:00', '2026-12-08T09:00:00']],
  schedule: {
    booked: [
      booked('p1', 'l6', '2026-12-07T09:00:00', '2026-12-08T09:12:00', { waits: true }),
      booked('clean-proof-4', null, '2026-12-08T10:00:00', '2026-12-08T10:30:00', { late_minutes: 90 }),
    ],
    ...{ ready: '2026-12-08T10:30:00', bound: '2026-12-08T10:00:00', bound_by: 'hands', method: 'm' },
  },
  why: '',
} as unknown as PlanTold;

const plan = {
  ...{
    wanted: [],
    plates: [],
    moves: [],
    begun: [],
    done: [],
    days_off: [],
    most_parts: null,
    spare_from: null,
  },
} as WantedPlan;
const acts = () => ({ busy: false, change: vi.fn(), again: vi.fn(), byHand: vi.fn() });

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
      { at: '2026-12-07T09:00:00', says: 'begin plate 1 on Lantern 6', last: false, task: 'p1' },
    ]);
    expect(byHandOn(told, second).map(({ says }) => says)).toEqual([
      'take plate 1 off Lantern 6',
      'clean up proof 4',
    ]);
    expect(byHandOn(told, second)[0]?.at).toBe('2026-12-08T09:00:00');
  });

  it('are drawn a line a machine, late and waiting ones marked, and a day can be looked at', () => {
    const { change, ...rest } = acts();
    render(<Days told={told} plan={plan} acts={{ change, ...rest }} />);
    expect(screen.getByTitle(/^plate 1: .*keeps its machine/).dataset.waits).toBe('true');
    expect(screen.getByTitle(/^clean up proof 4: .*1.5 h late/).dataset.late).toBe('true');
    fireEvent.click(screen.getByRole('button', { name: 'Tue 8' }));
    const list = screen.getByRole('list', { name: /^By hand on Tuesday/ });
    expect(
      within(list)
        .getAllByRole('listitem')
        .map((one) => one.textContent),
    ).toEqual(['09:00 take plate 1 off Lantern 6', '10:00 clean up proof 4 move done']);
    // What is done to a print that was begun is ticked.
    fireEvent.click(screen.getByRole('button', { name: 'Done: clean up proof 4' }));
    expect(change).toHaveBeenCalledExactlyOnceWith('done: clean up proof 4', { done: ['clean-proof-4'] });
  });

  it('let a task be moved by keys, to a later hour and another machine, and left to the plan', () => {
    const { change, ...rest } = acts();
    const moved = {
      ...plan,
      moves: [{ task: 'clean-proof-4', not_before: '2026-12-08T10:00:00', on: null }],
    };
    render(<Days told={told} plan={moved} acts={{ change, ...rest }} />);
    const bar = screen.getByRole('button', { name: /^plate 1: / });
    fireEvent.keyDown(bar, { key: 'ArrowRight' });
    fireEvent.keyDown(bar, { key: 'ArrowRight' });
    expect(screen.getByRole('status').textContent).toContain('plate 1 not before Mon 7, 11:00');
    fireEvent.click(screen.getByRole('button', { name: 'an hour earlier' }));
    fireEvent.click(screen.getByRole('button', { name: 'an hour later' }));
    fireEvent.keyDown(bar, { key: 'ArrowDown' });
    expect(screen.getByRole('status').textContent).toContain('on Lantern 7');
    fireEvent.click(screen.getByRole('button', { name: 'Plan it so' }));
    const own = { task: 'p1', not_before: '2026-12-07T11:00:00', on: 'l7' };
    expect(change).toHaveBeenLastCalledWith('moved: plate 1', { moves: [...moved.moves, own] });
    fireEvent.click(screen.getByRole('button', { name: 'Leave clean up proof 4 to the plan' }));
    expect(change).toHaveBeenLastCalledWith('left to the plan: clean up proof 4', { moves: [] });
  });

  it('know how much of each hour hands are busy', () => {
    const busy = handsByHour(told, days);
    expect(busy[9]).toBeCloseTo(10 / 60);
    expect(busy[24 + 9]).toBeCloseTo(12 / 60);
    expect(busy[24 + 10]).toBeCloseTo(0.5);
    expect(busy.reduce((a, b) => a + b)).toBeCloseTo(52 / 60);
    expect(momentAt(0.25, days)).toBe('2026-12-07T12:00:00');
  });
});

it('a plate says what it takes and what may be lost, and the next one is a key away', () => {
  const show = vi.fn();
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Plate name="n" plate={first} plates={told.plates} show={show} acts={acts()} />
    </QueryClientProvider>,
  );
  expect(screen.getByText('2 x Imp')).toBeTruthy();
  expect(screen.getByText(/torn off with 3.0 N.*up to 5.0 ml.*first after 30 min/)).toBeTruthy();
  fireEvent.keyDown(document.body, { key: 'j' });
  expect(show).toHaveBeenCalledExactlyOnceWith(2);
  fireEvent.keyDown(document.body, { key: 'k' });
  expect(show).toHaveBeenCalledTimes(1);
});

const first = told.plates[0] as PlanTold['plates'][number];

it('a part is chosen, moved and turned by keys, checked, and kept where the hand placed it', async () => {
  const { change, ...rest } = acts();
  const client = new QueryClient();
  render(
    <QueryClientProvider client={client}>
      <Plate name="n" plate={first} plates={told.plates} show={vi.fn()} acts={{ change, ...rest }} />
    </QueryClientProvider>,
  );
  for (const key of ['p', 'p', 'ArrowLeft', 'r']) fireEvent.keyDown(document.body, { key });
  expect(await screen.findByText(/Imp comes too near to Imp/)).toBeTruthy();
  fireEvent.keyDown(document.body, { key: 'Enter' });
  const placed = { figure: 1, edition: 'e1', part: 'p', layers: 'a', x: 19, y: 10, turn: 15 };
  expect(change).toHaveBeenCalledExactlyOnceWith('placed by hand', {
    plates: [{ setting: 's', lying: [placed] }],
  });
});

it('one more of the part that is chosen is printed, or one less, and of none that is not', () => {
  const { byHand, ...rest } = acts();
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Plate name="n" plate={first} plates={told.plates} show={vi.fn()} acts={{ byHand, ...rest }} />
    </QueryClientProvider>,
  );
  fireEvent.keyDown(document.body, { key: '+' });
  expect(byHand).not.toHaveBeenCalled();
  fireEvent.keyDown(document.body, { key: 'p' });
  expect(screen.getByText('stands on 84 mm², its largest layer is torn off with 2.1 N')).toBeTruthy();
  for (const key of ['p', '+']) fireEvent.keyDown(document.body, { key });
  expect(byHand).toHaveBeenLastCalledWith('more', 'n', 1, 1);
  fireEvent.keyDown(document.body, { key: 'p' });
  fireEvent.click(screen.getByRole('button', { name: /take it off the plan/ }));
  expect(byHand).toHaveBeenLastCalledWith('less', 'n', 1, 0);
  expect(byHand).toHaveBeenCalledTimes(2);
});

describe('what the hand placed', () => {
  const [one, two] = told.plates as [typeof first, typeof first];
  const held = { ...one, lying: [{ ...lying('Imp', 45), by_hand: true }, lying('Otter', 20)] };

  it('stays while another part is moved, and is let go of a plate that is packed anew', () => {
    const kept = handPlates([held, two], held, new Map([[1, { x: 5, y: 6, turn: 7 }]]));
    expect(kept.map((plate) => plate.lying.map(({ x }) => x))).toEqual([[20, 5]]);
    expect(handPlates([held, two], held, new Map(), new Set([0, 1]))).toEqual([]);
    expect(handPlates([held, two], two, new Map())).toHaveLength(1);
  });

  it('goes to another plate with all that lies on both', () => {
    const after = movedTo([held, two], held, 0, two, { x: 1, y: 2, turn: 3 });
    expect(after.map((plate) => plate.lying.length)).toEqual([1, 3]);
    expect(after[1]?.lying.at(-1)).toMatchObject({ x: 1, y: 2, turn: 3 });
  });
});

it('sums say hands by their kind, failures with their range, and what runs short with its day', () => {
  const sums = {
    ...{
      plates: 2,
      printing_s: 7200,
      hands_min: 60,
      waiting_min: 30,
      resin_ml: 20,
      filament_ml: 0,
      money: 2,
    },
    ...{ hands: [{ says: 'supports off', minutes: 40 }], paint_money: 1, power_kwh: 0.2, failures_s: 700 },
    ...{
      fail_share: 0.1,
      fail_low: 0.04,
      fail_high: 0.3,
      fail_plates: 12,
      fails_in_ten_hours: 0.4,
      lines: [],
    },
  };
  const grey = { key: 'material:grey', name: 'Grey', unit: 'ml', price: 0.1 };
  const short = [
    { good: grey, there: 12, wanted: 20, at: '2026-12-08T09:00:00', says: 'plate 2' },
    { good: { ...grey, key: 'paint:bone', name: 'Bone' }, there: null, wanted: 1, at: null, says: '2 x Imp' },
  ];
  render(<Sums told={{ ...told, sums, short } as unknown as PlanTold} due="2026-12-08T08:00:00" />);
  const row = (name: string) => screen.getByRole('row', { name: new RegExp(`^${name}`) }).textContent;
  expect(row('hands')).toContain('supports off 40 min');
  expect(row('failures')).toContain('10 of 100 plates, 0.40 in ten hours; 4 to 30 by 12 plates printed');
  expect(row('Grey')).toContain('12 ml there: runs out Tue 8, 09:00, at plate 2');
  expect(row('Bone')).toContain('nobody has counted');
  expect(row('ready')).toContain('late: due');
});

it('what is wanted is left out, painted, limited and planned again', () => {
  const { change, again, busy } = acts();
  const wanted = [
    { figure: 1, count: 3, edition: '', part: '', painted: false },
    { figure: 2, count: 1, edition: '', part: '', painted: false },
  ];
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
        <Wanted plan={{ ...plan, wanted }} acts={{ change, again, busy }} />
      </QueryClientProvider>
    </MemoryRouter>,
  );
  expect(screen.getByText('3 x Imp')).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'Leave out Imp' }));
  expect(change).toHaveBeenLastCalledWith('left out: Imp', { wanted: [wanted[1]] });
  fireEvent.click(screen.getAllByRole('checkbox', { name: 'put together and painted' })[1] as HTMLElement);
  expect(change).toHaveBeenLastCalledWith('Otter painted', {
    wanted: [wanted[0], { ...wanted[1], painted: true }],
  });
  fireEvent.change(screen.getByRole('textbox', { name: /Parts on a plate/ }), { target: { value: '4' } });
  fireEvent.click(screen.getByRole('button', { name: 'Keep to that many' }));
  expect(change).toHaveBeenLastCalledWith('parts on a plate', { most_parts: 4 });
  fireEvent.click(screen.getByRole('button', { name: /plan again/ }));
  expect(again).toHaveBeenCalledOnce();
});
