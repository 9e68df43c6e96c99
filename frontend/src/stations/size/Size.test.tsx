// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import type { ReactNode } from 'react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { BuildRecord, FigurePage, PartRecord, Setup } from '../../app/client';
import type { Pick, Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import type { Sent } from '../../testing/answering';
import { HeightOrFactor, OwnSettings, SettingAndForm } from './Edition';
import { ForeignThings } from './Foreign';
import { Measures } from './Measures';
import { measuredLengths, Ways } from './Ways';

const sent: Sent[] = [];
let answers: Record<string, unknown> = {};

vi.mock('../../app/client', async (original) => {
  const { answering: by } = await import('../../testing/answering');
  return {
    ...(await original<object>()),
    api: by((request) => {
      sent.push(request);
      return { data: answers[request.path] ?? {}, response: new Response() };
    }),
    dataOf: async (asked: Promise<{ data: unknown }>) => (await asked).data,
  };
});

const part = (name: string) => ({ facts: { part: name, factor: 2, size_mm: [20, 30, 40] } }) as PartRecord;
const measured = (name: string, how: string, figure: number | null) => ({
  step: { kind: 'measure', name, how },
  receipt: { figure },
});
const build = (over: object = {}) =>
  ({
    key: 'k',
    parts: [part('figure')],
    size_mm: [20, 30, 40],
    ghosts: [],
    steps: [{ step: { kind: 'bring-in', source: 'abc', unit: 'mm', up: 'z' }, receipt: {} }],
    estimate: { material_ml: 4, seconds: 3_600, money: 1, model: 'by layers' },
    ...over,
  }) as unknown as BuildRecord;
const edition = { height: 40, factor: null, setting: 'grey', part_settings: {}, form: { mirrored: false } };
const page = { id: 1, edition } as unknown as FigurePage;
const setups = [
  { id: 'grey', name: 'Grey', retired: false },
  { id: 'old', name: 'Old', retired: true },
  { id: 'clear', name: 'Clear', retired: false },
].map((one) => ({
  ...one,
  setting: { layer: 0.05, walls: { free_standing: { stop: 0.4 } } },
  printer: { id: `of-${one.id}`, name: `Printer of ${one.name}` },
})) as unknown as Setup[];
const calls = { addStep: vi.fn(), setEdition: vi.fn() };
const acts = { ...calls, busy: false, stale: false } as unknown as FigureActs;
const ask = vi.fn();
const picking = { ask, asked: null, picks: [], leave: vi.fn() } as unknown as Picking;
const pick = (x: number): Pick => ({ point: [x, 0, 3], normal: [0, 0, 1], view: [0, -1, 0] });
const picked = (...picks: Pick[]) =>
  act(() => (ask.mock.calls.at(-1)?.[0] as { then: (p: Pick[]) => void }).then(picks));

const show = (inside: ReactNode) =>
  render(
    <MemoryRouter>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        {inside}
      </QueryClientProvider>
    </MemoryRouter>,
  );
const type = (label: string | RegExp, value: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value } });
const choose = async (label: string | RegExp, name: string | RegExp) => {
  fireEvent.mouseDown(screen.getByRole('combobox', { name: label }));
  fireEvent.click(await screen.findByRole('option', { name }));
};

beforeEach(() => {
  sent.length = 0;
  answers = {};
  vi.clearAllMocks();
});
afterEach(cleanup);

it('asks for as many places as what is measured has, and keeps them by name', async () => {
  show(<Measures build={build()} part={part('figure')} acts={acts} picking={picking} />);
  const go = screen.getByRole('button', { name: 'Pick on the figure' });
  expect(go).toHaveProperty('disabled', true);
  type('Name of the measurement', ' neck ');
  await choose('What is measured', 'across, by three picks');
  fireEvent.click(go);
  expect(ask.mock.calls[0]?.[0]).toMatchObject({
    count: 3,
    says: 'Pick 3 places, one after the other, on the figure',
  });
  picked(pick(0), pick(1), pick(2));
  expect(calls.addStep).toHaveBeenCalledExactlyOnceWith(
    'measured neck',
    expect.objectContaining({ kind: 'measure', name: 'neck', how: 'diameter', scope: null }),
  );
  const [, step] = calls.addStep.mock.calls[0] as [string, { places: { source: string }[] }];
  expect(step.places.map(({ source }) => source)).toEqual(['abc', 'abc', 'abc']);
  // Of several parts it is of the one that is looked at.
  cleanup();
  show(
    <Measures
      build={build({ parts: [part('hood'), part('body')] })}
      part={part('body')}
      acts={acts}
      picking={picking}
    />,
  );
  type('Name of the measurement', 'belt');
  await choose('What is measured', 'round about, level');
  fireEvent.click(screen.getByRole('button', { name: 'Pick on the figure' }));
  picked(pick(0));
  expect(calls.addStep).toHaveBeenLastCalledWith('measured belt', expect.objectContaining({ scope: 'body' }));
});

it('knows the lengths that were measured, and no angles nor what is lost', () => {
  const steps = [
    measured('neck', 'straight', 12),
    measured('elbow', 'angle', 90),
    measured('gone', 'straight', null),
  ];
  expect(measuredLengths(build({ steps }))).toEqual([{ name: 'neck', figure: 12 }]);
});

it('lays a thing beside the figure, free of it, in figure mm', async () => {
  show(<ForeignThings page={page} build={build()} acts={acts} />);
  const lay = screen.getByRole('button', { name: 'Lay it there' });
  type('Name of the thing', 'bottle');
  type('across, mm', '30');
  expect(lay).toHaveProperty('disabled', true);
  type('long, mm', '80');
  fireEvent.click(lay);
  await waitFor(() =>
    expect(calls.addStep).toHaveBeenCalledExactlyOnceWith('laid bottle beside it', {
      kind: 'foreign',
      name: 'bottle',
      thing: { shape: 'round', diameter: 30, length: 80 },
      // Half the figure, half the bottle and 4 mm, of a figure printed at twice its size.
      at: [(10 + 15 + 4) / 2, 0, 0],
    }),
  );
});

it('lays another figure of the shelf beside it as it was brought in, and never itself', async () => {
  answers = {
    '/api/shelf': [
      { id: 1, name: 'Itself' },
      { id: 2, name: 'Imp' },
    ],
    '/api/figures/{number}': {
      build: {
        steps: [{ step: { kind: 'bring-in', source: 'imp', unit: 'cm', up: 'y' } }],
        parts: [{ facts: { size_mm: [12, 1, 1], factor: 3 } }],
      },
    },
  };
  show(<ForeignThings page={page} build={build()} acts={acts} />);
  type('Name of the thing', 'imp');
  await choose('Shape of the thing', 'a figure or scan of the shelf');
  await waitFor(() => expect(sent.some(({ path }) => path === '/api/shelf')).toBe(true));
  fireEvent.mouseDown(screen.getByRole('combobox', { name: 'Figure of the shelf' }));
  await waitFor(() => expect(screen.getAllByRole('option').map((one) => one.textContent)).toEqual(['Imp']));
  fireEvent.click(screen.getByRole('option', { name: 'Imp' }));
  fireEvent.click(screen.getByRole('button', { name: 'Lay it there' }));
  await waitFor(() => expect(calls.addStep).toHaveBeenCalledTimes(1));
  const [, step] = calls.addStep.mock.calls[0] as [string, { thing: object; at: number[] }];
  expect(step.thing).toEqual({ shape: 'mesh', source: 'imp', unit: 'cm', up: 'y' });
  expect(step.at[0]).toBeCloseTo((10 + 2 + 4) / 2);
});

const worked = (over: object = {}) => ({
  worked: { working: ['75 of 40 is 1.875'], factor: 3.75 },
  size_mm: [37.5, 56.25, 75],
  height: 75,
  by_factor: false,
  fits: true,
  estimate: { material_ml: 26, seconds: 7_200, money: 6, model: 'by layers' },
  near: { thin: 2, stops: 1, too_fine: 3 },
  ...over,
});
const ways = (of = build()) => (
  <Ways page={page} build={of} acts={acts} setups={setups} setup={setups[0]} picking={picking} />
);

it('shows what a size would take before it is set', async () => {
  answers['/api/figures/{number}/size'] = worked();
  show(ways());
  expect(screen.queryByRole('status')).toBeNull();
  type('From the ground to the top, mm', '75');
  expect((await screen.findByRole('status')).textContent).toContain('75 of 40 is 1.875');
  expect(screen.getByText(/26.0 ml for 4.0/)).toBeTruthy();
  expect(
    screen.getByText('2 places too thin, 1 of them to print at all, 3 finer than the printer draws'),
  ).toBeTruthy();
  expect(sent.at(-1)?.body).toEqual({ way: { way: 'height', height: 75 } });
  fireEvent.click(screen.getByRole('button', { name: 'Make it 75.0 mm tall' }));
  expect(calls.setEdition).toHaveBeenCalledExactlyOnceWith({ ...edition, height: 75, factor: null }, '');
});

it('says a size in other ways, and asks of none that is not whole', async () => {
  answers['/api/figures/{number}/size'] = worked({
    by_factor: true,
    fits: false,
    near: null,
    estimate: null,
  });
  show(ways(build({ steps: [measured('neck', 'straight', 12)] })));
  const asked = () => sent.filter(({ path }) => path.endsWith('/size')).map(({ body }) => body);
  await choose('Size it by', 'one length to another');
  await choose('What was measured', /neck/);
  expect(asked()).toEqual([]);
  type('Is to print as, mm', '6');
  expect(await screen.findByText('does not fit its printer as it stands')).toBeTruthy();
  expect(asked().at(-1)).toEqual({ way: { way: 'match', length: 12, wanted: 6, of: 'neck' } });
  fireEvent.click(screen.getByRole('button', { name: 'Make it 75.0 mm tall' }));
  const [made, meant] = calls.setEdition.mock.calls[0] as [{ factor: number; height: null }, string];
  expect([made.factor, made.height, meant]).toEqual([3.75, null, 'one length to another']);
  await choose('Size it by', 'one to so many of life');
  type('One to', '24');
  await waitFor(() => expect(asked().at(-1)).toEqual({ way: { way: 'ratio', n: 24, real: 1750 } }));
  await choose('Size it by', 'height to the eyes');
  fireEvent.click(screen.getByRole('button', { name: 'Pick the eyes on the figure' }));
  picked(pick(1));
  type('From the ground to the eyes, mm', '32');
  await waitFor(() => expect(asked().at(-1)).toEqual({ way: { way: 'eye', eye: 32, at: 3 } }));
  await choose('Size it by', 'the largest that fits a printer');
  await waitFor(() =>
    expect(asked().at(-1)).toEqual({ way: { way: 'fit', printer: 'of-grey', turned: false } }),
  );
});

it('keeps a height or a factor, one in place of the other', () => {
  show(<HeightOrFactor page={page} build={build()} acts={acts} />);
  const height = screen.getByLabelText('Overall height, mm');
  fireEvent.change(height, { target: { value: '60' } });
  fireEvent.blur(height);
  expect(calls.setEdition).toHaveBeenLastCalledWith({ ...edition, height: 60, factor: null });
  const factor = screen.getByLabelText('Factor from source to print');
  fireEvent.change(factor, { target: { value: 'much' } });
  fireEvent.blur(factor);
  expect(calls.setEdition).toHaveBeenCalledTimes(1);
  fireEvent.change(factor, { target: { value: '1.5' } });
  fireEvent.blur(factor);
  expect(calls.setEdition).toHaveBeenLastCalledWith({ ...edition, height: null, factor: 1.5 });
});

it('offers no setting that was retired, but the one in use, and gives parts settings of their own', async () => {
  show(<SettingAndForm page={page} acts={acts} setups={setups} />);
  fireEvent.mouseDown(screen.getByRole('combobox', { name: 'Setting' }));
  expect(screen.getAllByRole('option').map((one) => one.textContent?.split(',')[0])).toEqual([
    'Grey',
    'Clear',
  ]);
  fireEvent.click(screen.getByRole('option', { name: /Clear/ }));
  expect(calls.setEdition).toHaveBeenLastCalledWith({ ...edition, setting: 'clear' });
  // A form leaves out what is not wanted, and nothing else of it changes.
  await choose('Hollow or solid', 'solid');
  expect(calls.setEdition).toHaveBeenLastCalledWith({
    ...edition,
    form: { ...edition.form, hollow: false },
  });
  await choose('Pockets for bought parts', 'closed');
  expect(calls.setEdition).toHaveBeenLastCalledWith({
    ...edition,
    form: { ...edition.form, pockets: false },
  });
  cleanup();
  const own = { ...page, edition: { ...edition, part_settings: { hood: 'old' } } } as unknown as FigurePage;
  const parts = build({ parts: [part('hood'), part('body')] });
  show(<OwnSettings page={own} build={parts} acts={acts} setups={setups} />);
  expect(screen.getByRole('combobox', { name: 'Setting of hood' }).textContent).toContain('retired');
  await choose('Setting of body', /Clear/);
  expect(calls.setEdition).toHaveBeenLastCalledWith({
    ...own.edition,
    part_settings: { hood: 'old', body: 'clear' },
  });
  await choose('Setting of hood', 'as the whole edition');
  expect(calls.setEdition).toHaveBeenLastCalledWith({ ...own.edition, part_settings: {} });
});
