// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { BuildRecord } from '../../app/client';
import type { Pick } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { colourTints, schemeOf } from './plan';
import { station } from './station';

vi.mock('../../app/client', async (original) => {
  const real = await original<object>();
  const { answering: by } = await import('../../testing/answering');
  return {
    ...real,
    api: by((request) => ({
      data: /shelf|mixes$|painted$/.test(request.path)
        ? []
        : request.path === '/api/air'
          ? {}
          : request.path.endsWith('/bench')
            ? {
                lists: [
                  {
                    place: 'paints',
                    things: [
                      { id: 'tide-blue', name: 'Tide blue', retired: false },
                      { id: 'old', name: 'Old', retired: true },
                    ],
                  },
                ],
              }
            : [{ drops: { 'tide-blue': 3, bone: 1 }, colour: '#3f5468', difference: 0.42 }],
      response: new Response(),
    })),
    dataOf: async (asked: Promise<{ data: unknown }>) => (await asked).data,
  };
});

const role = (name: string, colour: string, more: object = {}) => ({
  role: name,
  area_mm2: 3_100,
  colour,
  bare: false,
  coats: [],
  ml: 0.5,
  drops: 12.4,
  money: 0.2,
  minutes: 14,
  ...more,
});
const plan = {
  kind: 'colour-plan',
  id: 7,
  on: true,
  scope: null,
  regions: [
    { role: 'robe', grows: 'part', part: 'figure' },
    { role: 'beak', grows: 'edges', places: [] },
    { role: 'robe', grows: 'edges', places: [] },
  ],
  schemes: [
    {
      name: 'dusk',
      roles: [{ role: 'robe', coats: [{ kind: 'base', paint: 'tide-blue', coats: 2 }], bare: false }],
    },
    { name: 'low tide', roles: [] },
  ],
  scheme: 'dusk',
};
const build = (over: object = {}, steps: object[] = [plan]) =>
  ({
    key: 'k',
    parts: [],
    steps: steps.map((step) => ({ step })),
    finish: {
      whole_mm2: 9_300,
      scheme: 'dusk',
      schemes: [
        { name: 'dusk', roles: [role('robe', '#2f4a66'), role('beak', '#b98a35', { bare: true })] },
        { name: 'low tide', roles: [role('robe', '#8c4226'), role('beak', '#4b382c')] },
      ],
      work: [
        { what: 'Wash', says: 'two baths', hands_min: 4, wait_min: 6 },
        { what: 'Base coats', says: 'robe Tide blue', hands_min: 30, wait_min: 0 },
      ],
      other_work: [],
      ...over,
    },
  }) as unknown as BuildRecord;
const acts = { addStep: vi.fn(), setFields: vi.fn(), stale: false };
const ask = vi.fn();
const sheet = (of: BuildRecord) =>
  ({
    build: of,
    acts,
    busy: false,
    page: { cautions: [] },
    part: { facts: { part: 'figure', factor: 2 }, source: 'abc' },
    picking: { ask, leave: vi.fn(), asked: null },
  }) as unknown as Sheet;

function shown(of: BuildRecord, name?: string, at = '/') {
  const on = sheet(of);
  render(
    <MemoryRouter initialEntries={[at]}>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        {name ? (
          station
            .acts?.(on)
            .find((one) => one.name === name)
            ?.fields?.(on)
        ) : (
          <station.Report {...on} />
        )}
      </QueryClientProvider>
    </MemoryRouter>,
  );
}

const picked = (...picks: Pick[]) =>
  act(() => (ask.mock.calls.at(-1)?.[0] as { then: (p: Pick[]) => void }).then(picks));

beforeEach(() => vi.clearAllMocks());
afterEach(cleanup);

it('tints regions by the colours of the scheme that is looked at, roles once in the legend', () => {
  const dusk = colourTints(build(), null);
  expect(dusk?.palette).toEqual({
    regions: ['#2f4a66', '#b98a35', '#2f4a66'],
    names: ['robe', 'beak', 'robe'],
    rows: ['#2f4a66', '#b98a35'],
  });
  expect(colourTints(build(), 'low tide')?.palette?.rows).toEqual(['#8c4226', '#4b382c']);
  expect(schemeOf(build(), 'gone')?.name).toBe('dusk');
  expect(colourTints(build({ schemes: [] }), null)).toBeUndefined();
  expect(colourTints(build({}, []), null)).toBeUndefined();
});

it('says what each colour takes, what is left without one, and the hands and waiting of the work', async () => {
  shown(build());
  expect(screen.getByRole('heading', { name: '2 colours in dusk' })).toBeTruthy();
  expect(await screen.findByText('base Tide blue, 2 coats')).toBeTruthy();
  expect(screen.getByText('masked')).toBeTruthy();
  expect(screen.getByText('13')).toBeTruthy();
  expect(screen.getByText(/31.0 cm² of the figure have no colour yet/)).toBeTruthy();
  expect(screen.getByText(/34 min of hands, 6 min of waiting/)).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'Take off robe' }));
  expect(acts.setFields).toHaveBeenCalledWith('robe taken off', plan, { regions: [plan.regions[1]] });
});

it('colours what was touched, in figure mm, and begins a plan where there is none', () => {
  shown(build({ schemes: [] }, []), 'Colour a region');
  const keep = screen.getByRole('button', { name: 'Colour it' });
  fireEvent.change(screen.getByLabelText('What it is called'), { target: { value: ' hood ' } });
  expect(keep).toHaveProperty('disabled', true);
  fireEvent.click(screen.getByRole('button', { name: 'Touch the figure' }));
  picked({ point: [1, 2, 3], normal: [0, 0, 1], view: [0, -1, 0] });
  fireEvent.click(screen.getByLabelText('left and right alike'));
  fireEvent.change(screen.getByLabelText('Edges turn by, degrees'), { target: { value: '900' } });
  expect(keep).toHaveProperty('disabled', true);
  fireEvent.change(screen.getByLabelText('Edges turn by, degrees'), { target: { value: '25' } });
  fireEvent.click(keep);
  const [says, step] = acts.addStep.mock.calls[0] as [string, { regions: object[] }];
  expect(says).toBe('hood coloured');
  expect(step.regions).toMatchObject([
    {
      role: 'hood',
      grows: 'edges',
      part: 'figure',
      fold: 25,
      mirrored: true,
      places: [{ point: [1, 2, 3] }],
    },
  ]);
});

it('adds a coat of a mix that was found to the role and scheme that are looked at', async () => {
  shown(build(), 'Say what it is painted with', '/?scheme=low%20tide');
  fireEvent.click(screen.getByRole('button', { name: 'Find mixes' }));
  fireEvent.click(await screen.findByRole('button', { name: /3 Tide blue, 1 bone/ }));
  fireEvent.change(screen.getByRole('textbox', { name: 'Coats' }), { target: { value: '1.5' } });
  const add = screen.getByRole('button', { name: 'Add the coat' });
  expect(add).toHaveProperty('disabled', true);
  fireEvent.change(screen.getByRole('textbox', { name: 'Coats' }), { target: { value: '2' } });
  fireEvent.click(add);
  const [says, , values] = acts.setFields.mock.calls[0] as [string, object, { schemes: typeof plan.schemes }];
  expect(says).toBe('robe in low tide');
  expect(values.schemes[0]).toEqual(plan.schemes[0]);
  expect(values.schemes[1]?.roles[0]).toMatchObject({
    role: 'robe',
    coats: [{ kind: 'base', drops: { 'tide-blue': 3, bone: 1 }, coats: 2 }],
  });
});

it('begins a scheme as the one that is looked at, and never one of the same name', async () => {
  shown(build(), 'Try another scheme');
  const name = screen.getByLabelText('Name of another scheme');
  const begin = screen.getByRole('button', { name: 'Begin it as dusk is' });
  fireEvent.change(name, { target: { value: 'dusk' } });
  expect(begin).toHaveProperty('disabled', true);
  fireEvent.change(name, { target: { value: 'dawn' } });
  fireEvent.click(begin);
  const values = (acts.setFields.mock.calls[0] as [string, object, { schemes: object[] }])[2];
  expect(values.schemes.at(-1)).toEqual({ name: 'dawn', roles: plan.schemes[0]?.roles });
  fireEvent.click(screen.getByText('this one is meant'));
  await waitFor(() =>
    expect(acts.setFields).toHaveBeenLastCalledWith('low tide is meant', plan, { scheme: 'low tide' }),
  );
  fireEvent.click(screen.getByLabelText('all parts first, assembled last'));
  expect(acts.setFields).toHaveBeenLastCalledWith('order of work', plan, { painted_before: true });
});

it('proposes for a wash and a highlight the shares that were measured, and for a base all of it', async () => {
  const measured = {
    schemes: [
      { name: 'dusk', roles: [role('robe', '#2f4a66', { recesses: 0.124, edges: 0.003, seen: 0.81 })] },
    ],
  };
  shown(build(measured), 'Say what it is painted with');
  const share = screen.getByLabelText('On how much of it, %, as measured');
  expect(share).toHaveProperty('value', '12');
  const choose = async (name: string) => {
    fireEvent.mouseDown(screen.getByRole('combobox', { name: /Coat/ }));
    fireEvent.click(await screen.findByRole('option', { name }));
  };
  await choose('highlight on edges');
  expect(share).toHaveProperty('value', '1');
  await choose('base');
  expect(share).toHaveProperty('value', '100');
  cleanup();
  shown(build(measured));
  expect(await screen.findByText(/81 % of it seen, 12 % recesses, 0 % edges/)).toBeTruthy();
});

it('keeps a decal with its place and size, tells it, and takes it off again', () => {
  shown(build(), 'Put on a decal');
  const keep = screen.getByRole('button', { name: 'Put the decal there' });
  fireEvent.change(screen.getByLabelText('What the decal shows'), { target: { value: 'heron' } });
  expect(keep).toHaveProperty('disabled', true);
  fireEvent.click(screen.getByRole('button', { name: 'Touch the figure' }));
  picked({ point: [1, 2, 3], normal: [0, 0, 1], view: [0, -1, 0] });
  fireEvent.change(screen.getByLabelText('Width of the decal, mm of the print'), { target: { value: 'x' } });
  expect(keep).toHaveProperty('disabled', true);
  fireEvent.change(screen.getByLabelText('Width of the decal, mm of the print'), { target: { value: '8' } });
  fireEvent.click(keep);
  const heron = {
    name: 'heron',
    part: 'figure',
    place: { point: [1, 2, 3], normal: [0, 0, 1], source: 'abc' },
    wide: 8,
    high: 4,
  };
  expect(acts.setFields).toHaveBeenCalledWith('decal heron', plan, { decals: [heron] });
  cleanup();
  const held = { ...plan, decals: [heron] };
  shown(build({}, [held]));
  expect(screen.getByText(/8.0 × 4.0 mm on a part that was cut/)).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'Take off the decal heron' }));
  expect(acts.setFields).toHaveBeenLastCalledWith('decal heron taken off', held, { decals: [] });
});

it('colours along strokes, with no more places than a region may have', () => {
  shown(build(), 'Colour a region');
  fireEvent.change(screen.getByLabelText('What it is called'), { target: { value: 'hem' } });
  expect(screen.queryByRole('button', { name: 'Draw strokes' })).toBeNull();
  fireEvent.mouseDown(screen.getByRole('combobox', { name: /How far the colour goes/ }));
  fireEvent.click(screen.getByRole('option', { name: /places or strokes/ }));
  fireEvent.click(screen.getByRole('button', { name: 'Draw strokes' }));
  const { brush } = ask.mock.calls.at(-1)?.[0] as { brush: { live: null; ended: (picks: Pick[]) => void } };
  const many = Array.from({ length: 450 }, (_, k): Pick => ({
    point: [k, 0, 0],
    normal: [0, 0, 1],
    view: [0, -1, 0],
  }));
  act(() => brush.ended(many));
  fireEvent.click(screen.getByRole('button', { name: 'Colour it' }));
  const values = (
    acts.setFields.mock.calls[0] as [string, object, { regions: { places: { point: number[] }[] }[] }]
  )[2];
  const places = values.regions.at(-1)?.places ?? [];
  expect(places).toHaveLength(150);
  expect(places.at(-1)?.point[0]).toBe(447);
});
