// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import type { ReactElement } from 'react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { BuildRecord } from '../../app/client';
import type { Sheet } from '../../figure/sheet';
import type { Sent } from '../../testing/answering';
import { AirLine } from './AirLine';
import { CopyAct } from './CopyAct';
import { MixesMade } from './MixesMade';
import { merged, OtherFigure } from './OtherFigure';
import { meanColour } from './PhotoColour';

const coat = (paint: string) => ({
  ...{ kind: 'base' as const, paint, drops: {}, coats: 1, share: 1, thinned: 0, tool: 'brush' as const },
});
const scheme = (paint: string) => ({
  name: 'dusk',
  roles: [{ role: 'robe', bare: false, coats: [coat(paint)] }],
});
const plan = {
  kind: 'colour-plan',
  id: 7,
  regions: [{ role: 'robe' }],
  schemes: [scheme('bone')],
  scheme: 'dusk',
};
const build = { steps: [{ step: plan }] } as unknown as BuildRecord;
const copy = {
  ...{ number: 2, revision: 5, can_undo: true, can_redo: false, told_min: 8, took_min: 11 },
  painted: {
    ...{ figure: 1, figure_name: 'Imp', edition: 'e1', edition_name: 'First', began: '2026-12-01T09:00:00Z' },
    ...{ ended: null, takes: {}, photos: [], otherwise: '', done: scheme('rust') },
    rows: [
      { what: 'Wash', says: '', told_min: 8, minutes: 11 },
      { what: 'Sand', says: '', told_min: 20, minutes: null },
    ],
  },
};
const mix = {
  name: 'mix for robe',
  amounts: { bone: 3, soot: 1 },
  by: 'drops',
  made_ml: 5,
  day: '2026-12-01',
};

const sent: Sent[] = [];
let held: Record<string, unknown> = {};

vi.mock('../../app/client', async (original) => ({
  ...(await original<object>()),
  api: (await import('../../testing/answering')).answering((one) => {
    if (one.method !== 'GET') sent.push(one);
    return { data: held[one.path] ?? [], response: { ok: true } };
  }),
}));

const acts = { setFields: vi.fn(), addStep: vi.fn() };
const on = { build, acts, busy: false, page: { id: 1, looked: 'e1' } } as unknown as Sheet;
const shown = (page: ReactElement) =>
  render(<QueryClientProvider client={new QueryClient()}>{page}</QueryClientProvider>);

beforeEach(() => {
  sent.length = 0;
  vi.clearAllMocks();
  held = { '/api/figures/{number}/painted': [copy] };
});
afterEach(cleanup);

it('ticks off work with the minutes it took, and sets these beside what was told', async () => {
  shown(<CopyAct {...on} />);
  expect(await screen.findByText(/11 min for what was told as 8 min/)).toBeTruthy();
  fireEvent.click(screen.getByRole('checkbox', { name: /^Sand/ }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({ method: 'PUT', seen: 5, body: { says: 'Sand' } });
  const minutes = screen.getByLabelText('Minutes that “Sand” took');
  fireEvent.change(minutes, { target: { value: 'long' } });
  fireEvent.blur(minutes);
  expect(sent).toHaveLength(1);
  fireEvent.change(minutes, { target: { value: '24,5' } });
  fireEvent.blur(minutes);
  await waitFor(() => expect(sent).toHaveLength(2));
  const rows = (sent[1]?.body as { painted: typeof copy.painted }).painted.rows;
  expect(rows.map((row) => row.minutes)).toEqual([11, 24.5]);
});

it('makes the stacks of a copy the plan by one act', async () => {
  shown(<CopyAct {...on} />);
  fireEvent.click(await screen.findByRole('button', { name: 'make its stacks the plan' }));
  expect(acts.setFields).toHaveBeenCalledExactlyOnceWith('as copy 2 was painted', plan, {
    schemes: [scheme('rust')],
  });
  fireEvent.click(screen.getByRole('button', { name: 'This copy is done' }));
  await waitFor(() => expect(sent[0]?.body).toMatchObject({ says: 'painted' }));
});

it('makes a mix, makes it again in another amount, and keeps what it dried to', async () => {
  held = {
    '/api/mixes': [{ number: 4, mix, colour: '#aabbcc', left_ml: 1.5 }],
    '/api/mixes/amounts': { amounts: { bone: 30, soot: 10 } },
  };
  shown(<MixesMade name="mix for hood" drops={{ bone: 2 }} names={new Map([['bone', 'Bone']])} />);
  expect(await screen.findByText(/1.5 of 5.0 ml left/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText('How much of a mix, ml'), { target: { value: '16' } });
  expect(await screen.findByText('16.0 ml: 30 Bone, 10 soot')).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'make 16.0 ml of it again' }));
  fireEvent.click(screen.getByRole('button', { name: 'Mix so much' }));
  const made = () => sent.filter(({ path, method }) => path === '/api/mixes' && method === 'POST');
  await waitFor(() => expect(made()).toHaveLength(2));
  expect(made().map(({ body }) => body)).toMatchObject([
    { name: 'mix for robe', amounts: { bone: 3, soot: 1 }, made_ml: 16 },
    { name: 'mix for hood', amounts: { bone: 2 }, made_ml: 16 },
  ]);
  const dried = screen.getByLabelText('What mix for robe dried to');
  fireEvent.change(dried, { target: { value: '#998877' } });
  fireEvent.blur(dried);
  await waitFor(() =>
    expect(sent.at(-1)).toMatchObject({ path: '/api/mixes/{mix}', body: { dried: '#998877' } }),
  );
});

it('keeps what the air is, and takes it back', async () => {
  held = { '/api/air': { temperature: 18, damp: null } };
  shown(<AirLine />);
  const warm = await screen.findByLabelText(/Where it is painted it has/);
  fireEvent.change(warm, { target: { value: '' } });
  fireEvent.blur(warm);
  await waitFor(() => expect(sent[0]?.body).toEqual({ temperature: null, damp: null }));
});

it('takes over colours of roles that another figure has too, and says where there are none', async () => {
  const other = (role: string) => ({
    name: 'Otter',
    build: { steps: [{ step: { ...plan, schemes: [{ name: 'dusk', roles: [{ role, coats: [] }] }] } }] },
  });
  held = { '/api/shelf': [{ id: 3, name: 'Otter' }], '/api/figures/{number}': other('fur') };
  shown(<OtherFigure {...on} />);
  fireEvent.mouseDown(await screen.findByRole('combobox'));
  fireEvent.click(await screen.findByRole('option', { name: 'Otter' }));
  fireEvent.click(screen.getByRole('button', { name: 'Take over its colours' }));
  expect(await screen.findByText(/no colour for a role that this figure has/)).toBeTruthy();
  expect(acts.setFields).not.toHaveBeenCalled();
  held['/api/figures/{number}'] = other('robe');
  fireEvent.click(screen.getByRole('button', { name: 'Take over its colours' }));
  await waitFor(() => expect(acts.setFields).toHaveBeenCalledOnce());
  expect(merged([scheme('bone')], [{ name: 'low tide', roles: [] }])).toHaveLength(2);
});

it('takes the mean of what is clicked in a photo', () => {
  expect(meanColour([10, 20, 30, 255, 20, 40, 60, 0])).toBe('#0f1e2d');
});

it('strikes a mix out and puts it back', async () => {
  held = {
    '/api/mixes': [{ number: 4, mix, colour: '#aabbcc', left_ml: 1.5 }],
    '/api/mixes/amounts': { amounts: {} },
    '/api/mixes/{mix}': [],
    '/api/mixes/{mix}/put-back': [{ number: 4, mix, colour: '#aabbcc', left_ml: 1.5 }],
  };
  shown(<MixesMade name="" drops={null} names={new Map()} />);
  expect(screen.queryByRole('button', { name: /put back/ })).toBeNull();
  fireEvent.click(await screen.findByRole('button', { name: /^Strike out mix for robe, made/ }));
  await waitFor(() => expect(sent.at(-1)).toMatchObject({ method: 'DELETE', path: '/api/mixes/{mix}' }));
  await waitFor(() => expect(screen.queryByRole('list', { name: 'Mixes that were made' })).toBeNull());
  fireEvent.click(await screen.findByRole('button', { name: 'put back the mix that was struck out' }));
  expect(await screen.findByText(/1.5 of 5.0 ml left/)).toBeTruthy();
  expect(screen.queryByRole('button', { name: /put back/ })).toBeNull();
});

it('lets a copy that was begun by mistake go and takes it up again, and makes an entry again', async () => {
  held = { '/api/figures/{number}/painted': [{ ...copy, can_redo: true }] };
  shown(<CopyAct {...on} />);
  fireEvent.click(await screen.findByRole('button', { name: 'make it again' }));
  await waitFor(() => expect(sent.at(-1)).toMatchObject({ path: '/api/painted/{copy}/redo', seen: 5 }));
  held['/api/figures/{number}/painted'] = [];
  fireEvent.click(screen.getByRole('button', { name: 'begun by mistake' }));
  const back = await screen.findByRole('button', { name: 'put back the copy that was begun by mistake' });
  held['/api/figures/{number}/painted'] = [copy];
  fireEvent.click(back);
  await waitFor(() => expect(sent.at(-1)?.path).toBe('/api/painted/{copy}/put-back'));
  await waitFor(() => expect(screen.queryByRole('button', { name: /put back/ })).toBeNull());
});
