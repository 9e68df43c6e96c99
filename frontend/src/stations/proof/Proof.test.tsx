// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { Pick } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import type { Sent } from '../../testing/answering';
import { station } from './station';

const sent: Sent[] = [];
let proofs: object = {};
let answers: Record<string, object> = {};

vi.mock('../../app/client', async (original) => {
  const real = await original<object>();
  const { answering: by } = await import('../../testing/answering');
  return {
    ...real,
    api: by((request) => {
      sent.push(request);
      const known = answers[`${request.method} ${request.path}`];
      if (known) return { data: known, response: new Response() };
      return {
        data: request.path.endsWith('/proofs') && request.method === 'GET' ? proofs : {},
        response: new Response(),
      };
    }),
    dataOf: async (asked: Promise<{ data: unknown }>) => (await asked).data,
  };
});

const printed = {
  figure: 1,
  edition: 'e1',
  part: 'figure',
  called: 'figure',
  revision: 3,
  version: null,
  size_mm: [10, 10, 40],
};
const came = (over: object = {}) => ({
  copies: [{ part: 0, outcome: null }],
  pins: [],
  lengths: [],
  scars: [],
  seconds: null,
  ml: null,
  cleanup_min: null,
  hands: '',
  remarks: '',
  printer: '',
  ready: [],
  ...over,
});
const proof = (number: number, over: object = {}, more: object = {}) => ({
  number,
  revision: 5,
  can_undo: true,
  can_redo: false,
  failed: false,
  held: false,
  differs: [],
  foretold: {},
  lengths_before: {},
  lengths_to_take: [],
  proof: {
    began: '2026-11-29T19:00:00',
    setting_name: 'Tough grey, fine',
    told: { seconds: 10_800, ml: 20 },
    parts: [printed],
    came: came(over),
  },
  ...more,
});
const edition = (id: string, name: string, variant: string, setting = 'grey') => ({
  ...{ id, name, sized_by: '', setting, form: variant && `variant ${variant}` },
  made: { height: 40, variant, form: { mirrored: false } },
});
const editions = [
  edition('e1', 'Whole', ''),
  edition('e2', 'Joined', 'joined'),
  edition('e3', 'Coarse', '', 'draft'),
];
const changeEdition = vi.fn();
const ask = vi.fn();
const leaveAct = vi.fn();
const part = {
  facts: {
    part: 'figure',
    called: 'figure',
    factor: 2,
    print_axes: [
      [1, 0, 0],
      [0, 0, 1],
      [0, -1, 0],
    ],
  },
  source: 'abc',
  estimate: { seconds: 10_800, material_ml: 20 },
};
const sheet = {
  page: { id: 1, looked: 'e1', edition: { setting: 'grey' }, editions },
  acts: { changeEdition },
  build: { key: 'k', parts: [part] },
  part,
  busy: false,
  picking: { ask, leave: vi.fn(), asked: null },
  leaveAct,
} as unknown as Sheet;

function shown(name?: string) {
  const acts = station.acts?.(sheet) ?? [];
  const inside = name ? (
    acts.find((one) => one.name === name)?.fields?.(sheet)
  ) : (
    <station.Report {...sheet} />
  );
  render(
    <MemoryRouter>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        {inside}
      </QueryClientProvider>
    </MemoryRouter>,
  );
}

const pick = (x: number, z = 0): Pick => ({ point: [x, 0, z], normal: [0, -1, 0], view: [0, -1, 0] });
const picked = (...picks: Pick[]) =>
  act(() => (ask.mock.calls.at(-1)?.[0] as { then: (p: Pick[]) => void }).then(picks));
const put = () => sent.findLast(({ method }) => method === 'PUT');

beforeEach(() => {
  sent.length = 0;
  answers = {};
  vi.clearAllMocks();
  proofs = {
    state: { kind: 'not', proof: null, differs: [] },
    proofs: [],
    ready: ['plate clean', 'film clear'],
  };
});
afterEach(cleanup);

const held = (...all: object[]) => {
  proofs = { state: { kind: 'another', proof: 2, differs: ['another shape'] }, proofs: all, ready: [] };
};

it('says what proofs prove, and of another form what was otherwise', async () => {
  held(proof(2, { copies: [{ part: 0, outcome: 'sound' }] }, { held: true }), proof(3, {}, { failed: true }));
  shown();
  expect(await screen.findByText('Proofed in another form: proof 2')).toBeTruthy();
  expect(screen.getByText(/another shape/)).toBeTruthy();
  expect(screen.getByRole('region', { name: 'Proof 3' })).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: '2 held' }));
  expect(await screen.findByRole('region', { name: 'Proof 2' })).toBeTruthy();
});

it('prints two forms beside each other, and keeps the better one by one act', async () => {
  answers['POST /api/proofs'] = [proof(1)];
  shown('Begin a proof');
  fireEvent.mouseDown(await screen.findByRole('combobox', { name: /Another form/ }));
  // One of another setting would be another print.
  expect(screen.getAllByRole('option').map((one) => one.textContent)).toEqual([
    'none',
    'Joined, variant joined',
  ]);
  fireEvent.click(screen.getByRole('option', { name: /Joined/ }));
  fireEvent.click(screen.getByRole('button', { name: 'Begin the proof' }));
  await waitFor(() => expect(sent.some(({ method }) => method === 'POST')).toBe(true));
  const { parts } = sent.find(({ method }) => method === 'POST')?.body as { parts: { edition: string }[] };
  expect(parts.map((one) => one.edition)).toEqual(['e1', 'e2']);
  cleanup();
  const both = proof(4);
  both.proof.parts = [
    { ...printed, edition_name: 'Whole' },
    { ...printed, edition: 'e2', edition_name: 'Joined' },
  ] as never;
  both.proof.came.copies = [
    { part: 0, outcome: 'failed' },
    { part: 1, outcome: 'sound' },
  ] as never;
  held(both);
  shown();
  const forms = await screen.findByRole('list', { name: 'Forms' });
  expect([...forms.children].map((one) => one.textContent)).toEqual([
    expect.stringMatching(/^Whole: failed/),
    expect.stringMatching(/^Joined: sound/),
  ]);
  fireEvent.click(screen.getByRole('button', { name: 'keep it: Whole takes this form too' }));
  expect(changeEdition).toHaveBeenCalledExactlyOnceWith('e1', {
    name: 'Whole',
    sized_by: '',
    made: { height: 40, variant: 'joined', form: { mirrored: false } },
  });
});

it('begins a proof of a part with what was ticked, and says what was not', async () => {
  answers['POST /api/proofs'] = [proof(1)];
  shown('Begin a proof');
  fireEvent.click(await screen.findByRole('checkbox', { name: 'plate clean' }));
  expect(screen.getByText(/1 thing not ticked/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText('Copies of each'), { target: { value: '2,5' } });
  expect(screen.getByRole('button', { name: 'Begin the proof' }).hasAttribute('disabled')).toBe(true);
  fireEvent.change(screen.getByLabelText('Copies of each'), { target: { value: '2' } });
  fireEvent.click(screen.getByRole('button', { name: 'Begin the proof' }));
  await waitFor(() => expect(leaveAct).toHaveBeenCalled());
  expect(sent.find(({ method }) => method === 'POST')?.body).toEqual({
    parts: [{ figure: 1, edition: 'e1', part: '', count: 2, painted: false }],
    ready: ['plate clean'],
  });
});

it('pins a place with its cause, under a number of its own', async () => {
  held(proof(3, { pins: [{ id: 4, part: 0, photos: [], when: 'sanding', cause: 'hands', what: '' }] }));
  shown('Pin what went wrong');
  const pinIt = await screen.findByRole('button', { name: 'Pin it' });
  expect(pinIt.hasAttribute('disabled')).toBe(true);
  fireEvent.click(screen.getByRole('button', { name: 'Pick the place on the figure' }));
  picked(pick(1));
  fireEvent.change(screen.getByLabelText('What it was, in a word or two'), { target: { value: ' Crest ' } });
  fireEvent.click(pinIt);
  await waitFor(() => expect(put()?.seen).toBe(5));
  const said = put()?.body as { says: string; came: { pins: { id: number }[] } };
  expect(said.says).toBe('pinned Crest');
  expect(said.came.pins.map(({ id }) => id)).toEqual([4, 5]);
  expect(said.came.pins[1]).toMatchObject({
    what: 'Crest',
    when: 'supports-off',
    cause: 'thin-part',
    at: { point: [1, 0, 0], normal: [0, -1, 0], source: 'abc' },
  });
});

it('keeps a length as it is drawn in the printer, and asks about inches', async () => {
  held(proof(3));
  shown('Enter a length by calipers');
  fireEvent.click(await screen.findByRole('button', { name: 'Pick both ends on the figure' }));
  picked(pick(0), pick(0, 20));
  expect(screen.getByText('drawn 40.00 mm')).toBeTruthy();
  const measured = screen.getByLabelText('Measured, mm');
  fireEvent.change(measured, { target: { value: '1.57' } });
  expect(screen.getByText(/reads like inches/)).toBeTruthy();
  const keep = screen.getByRole('button', { name: 'Keep this length' });
  expect(keep.hasAttribute('disabled')).toBe(true);
  fireEvent.change(measured, { target: { value: '39,8' } });
  fireEvent.click(keep);
  await waitFor(() => expect(put()).toBeTruthy());
  const { came: kept } = put()?.body as { came: { lengths: object[] } };
  expect(kept.lengths[0]).toMatchObject({ drawn: 40, measured: 39.8, over: 'outside', direction: [0, 1, 0] });
});

it('says how copies came out without losing what was entered before', async () => {
  held(proof(3, { remarks: 'smelt', pins: [{ id: 1, part: 0, photos: [] }] }));
  shown('Say how it came out');
  fireEvent.click(await screen.findByRole('radio', { name: 'failed' }));
  fireEvent.change(screen.getByLabelText('Hours it took'), { target: { value: '3,5' } });
  fireEvent.change(screen.getByLabelText('back'), { target: { value: '11' } });
  fireEvent.click(screen.getByRole('button', { name: 'Keep it so' }));
  await waitFor(() => expect(put()).toBeTruthy());
  expect((put()?.body as { came: object }).came).toMatchObject({
    copies: [{ part: 0, outcome: 'failed' }],
    seconds: 12_600,
    scars: [{ side: 'back', count: 11 }],
    remarks: 'smelt',
    pins: [{ id: 1 }],
  });
});

it('takes over only what is not on the bench already, by an act', async () => {
  const value = (over: object) => ({
    unit: 'times',
    kind: 'value',
    count: 6,
    proofs: [2, 3],
    outliers: [],
    low: 1.1,
    high: 1.3,
    says: '',
    ...over,
  });
  answers['GET /api/settings/{setting}/learnt'] = {
    setting: 'grey',
    setting_name: 'Grey',
    coupons: [],
    rates: [{ code: 'cup', told: 3, came_true: 1, unsaid: 0 }],
    learnt: [
      value({ path: 'times.factor', title: 'hours', value: 1.2, now: 1 }),
      value({
        path: 'material_factor',
        title: 'material',
        value: 1.1,
        now: 1.1,
        outliers: ['proof 2, 1.90'],
      }),
    ],
  };
  answers['POST /api/settings/{setting}/learnt'] = answers['GET /api/settings/{setting}/learnt'];
  shown('See what the bench can learn');
  expect(await screen.findByText(/left out: proof 2, 1.90/)).toBeTruthy();
  const takes = screen.getAllByRole('button', { name: /take over/ });
  expect(takes).toHaveLength(1);
  takes.forEach((one) => fireEvent.click(one));
  await waitFor(() =>
    expect(sent.find(({ method }) => method === 'POST')?.body).toEqual({ path: 'times.factor' }),
  );
});

it('follows a print while it is under way, and can stop it', async () => {
  held(proof(3, { printer: 'http://127.0.0.1:8477/prints/1' }));
  answers['PUT /api/proofs/{proof}/print'] = {
    state: 'printing',
    error: '',
    layer: 400,
    layers: 1500,
    seconds: 5400,
    ml: 4.2,
    events: 1,
  };
  shown('Print it on a printer here');
  expect((await screen.findByRole('status')).textContent).toBe('It is printing; 1 thing went wrong');
  expect(screen.getByRole('button', { name: 'Stop the print' })).toBeTruthy();
});

it('holds a length beside the proof before, and takes it again at the same places', async () => {
  const length = {
    part: 0,
    name: 'hem to hood',
    begin: { point: [0, 0, 0], normal: [0, 0, -1], source: 'old' },
    end: { point: [0, 0, 22], normal: null, source: 'old' },
    drawn: 44,
    measured: 43.8,
    over: 'step',
    direction: [0, -1, 0],
  };
  proofs = {
    state: { kind: 'not', proof: null, differs: [] },
    ready: [],
    proofs: [
      proof(2, { lengths: [length] }, { lengths_before: { 0: { proof: 1, drawn: 44.2, measured: 44.1 } } }),
    ],
  };
  shown();
  expect(await screen.findByText('44.10 for 44.20 in proof 1')).toBeTruthy();
  cleanup();
  held(proof(3, {}, { lengths_to_take: [length] }));
  shown('Enter a length by calipers');
  fireEvent.click(await screen.findByRole('button', { name: /hem to hood/ }));
  fireEvent.change(screen.getByLabelText('Measured, mm'), { target: { value: '43.95' } });
  fireEvent.click(screen.getByRole('button', { name: 'Keep this length' }));
  await waitFor(() => expect(put()).toBeTruthy());
  const [kept] = (put()?.body as { came: { lengths: object[] } }).came.lengths;
  expect(kept).toMatchObject({
    name: 'hem to hood',
    measured: 43.95,
    drawn: 44,
    over: 'step',
    begin: { point: [0, 0, 0], source: 'abc' },
    end: { point: [0, 0, 22], normal: null },
  });
});

const feature = (over: object) => ({
  name: '8',
  kind: 'round hole',
  x: 4,
  y: 4,
  mm: 3.2,
  gap: 0.08,
  over: '',
  ...over,
});

it('ticks on the picture of a coupon what fitted, and learns from that', async () => {
  answers['GET /api/settings/{setting}/learnt'] = {
    ...{ setting: 'grey', setting_name: 'Grey', coupons: [], rates: [], learnt: [] },
  };
  answers['PUT /api/settings/{setting}/coupons'] = answers['GET /api/settings/{setting}/learnt'];
  answers['GET /api/settings/{setting}/coupons/{kind}'] = [
    feature({}),
    feature({ name: '10', x: 14, gap: 0.1 }),
    feature({ name: 'round 3', kind: 'round peg', y: 30, gap: 0 }),
  ];
  shown('See what the bench can learn');
  const drawn = await screen.findByRole('img', { name: /coupon from above/ });
  const holes = drawn.querySelectorAll('g');
  fireEvent.click(holes[2] as Element);
  expect(screen.getByRole('button', { name: 'Learn from it' })).toHaveProperty('disabled', true);
  fireEvent.click(holes[0] as Element);
  expect(screen.getByLabelText('Pressed in from a gap of, mm')).toHaveProperty('value', '0.08');
  expect([...holes].map((one) => one.getAttribute('data-chosen'))).toEqual(['true', null, null]);
  fireEvent.mouseDown(screen.getByRole('combobox', { name: /How pegs go in/ }));
  fireEvent.click(screen.getByRole('option', { name: 'slides' }));
  fireEvent.click(holes[1] as Element);
  fireEvent.click(screen.getByRole('button', { name: 'Learn from it' }));
  await waitFor(() =>
    expect(put()?.body).toEqual([{ coupon: 'fit', setting: 'grey', press: 0.08, slide: 0.1 }]),
  );
});

it('prints a coupon on a printer, and fills in what is read there', async () => {
  answers['GET /api/settings/{setting}/learnt'] = {
    ...{ setting: 'grey', setting_name: 'Grey', coupons: [], rates: [], learnt: [] },
  };
  answers['GET /api/settings/{setting}/coupons/{kind}'] = [feature({})];
  const print = { address: 'http://127.0.0.1:8477/prints/4', error: '', layers: 120 };
  answers['POST /api/settings/{setting}/coupons/{kind}/print'] = {
    ...print,
    ...{ state: 'waiting', layer: 0, read: null },
  };
  answers['PUT /api/settings/{setting}/coupons/{kind}/print'] = {
    ...print,
    ...{
      state: 'done',
      layer: 120,
      read: { coupon: 'fit', setting: 'grey', proof: null, press: 0.06, slide: 0.1, free: null },
    },
  };
  shown('See what the bench can learn');
  fireEvent.click(await screen.findByRole('button', { name: 'Print the coupon' }));
  await waitFor(() =>
    expect(screen.getByLabelText('Slides from a gap of, mm')).toHaveProperty('value', '0.1'),
  );
  expect(screen.getByRole('status').textContent).toContain('what was read is entered above');
  expect(sent.filter(({ path }) => path.endsWith('/print')).map(({ body }) => body)).toEqual([
    { printer: 'http://127.0.0.1:8477' },
    { address: 'http://127.0.0.1:8477/prints/4' },
  ]);
});

it('lets a proof go that was begun by mistake, and counts it again', async () => {
  held(proof(3));
  shown();
  fireEvent.click(await screen.findByRole('button', { name: 'it was begun by mistake' }));
  const back = await screen.findByRole('button', { name: 'put back the proof that was begun by mistake' });
  expect(sent.some(({ method }) => method === 'DELETE')).toBe(true);
  fireEvent.click(back);
  await waitFor(() => expect(sent.some(({ path }) => path === '/api/proofs/{proof}/back')).toBe(true));
  await waitFor(() => expect(screen.queryByRole('button', { name: /put back/ })).toBeNull());
});
