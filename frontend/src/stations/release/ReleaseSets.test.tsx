// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { ReleaseSet } from '../../app/client';
import type { Sheet } from '../../figure/sheet';
import type { Sent } from '../../testing/answering';
import { station } from './station';

const sent: Sent[] = [];
let sets: object[] = [];
let answers: Record<string, unknown> = {};

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
        data:
          request.path.endsWith('/release-sets') && request.method === 'GET'
            ? { sets, unreadable: 0 }
            : request.path === '/api/shelf'
              ? []
              : {},
        response: new Response(),
      };
    }),
    dataOf: async (asked: Promise<{ data: unknown }>) => (await asked).data,
  };
});

const item = { figure: 1, edition: 'e1', supported: 'both', mirrored: false, kinds: ['stl', '3mf'] };
const view = {
  figure_name: 'Ferrywoman',
  edition_name: 'First edition',
  built: true,
  why: '',
  tall_mm: 75,
  parts: [['figure.2-upper', 'Crest']],
  state: 'another',
  proofed_says: '',
  holds: [],
  open: [],
  reports: 0,
  buyers: 0,
  printed: 0,
  failed: 0,
};
const row = (what: string, done: boolean, changed = false) => ({
  what,
  value: `the ${what}`,
  digest: `d-${what}`,
  done,
  changed,
});
const listing = {
  shop: 'Reed market',
  address: '',
  tier: 'bought',
  title: 'Fen folk',
  text: '',
  price: 4.5,
  tags: ['fen'],
  pictures: [{ wide: 600, high: 400 }],
  ticked: { title: 'd-title' },
  holds: 1,
  buyers: 12,
};
const issue = (number: number, correction: object | null = null) => ({
  number,
  date: '2026-12-24',
  packs: [
    { tier: 'bought', file_name: 'a.zip', bytes: 7e6, sha256: 'f', items: ['ferrywoman_75mm'], correction },
  ],
});
const set = (release: object = {}, over: object = {}) => ({
  number: 3,
  revision: 8,
  can_undo: true,
  can_redo: false,
  release: {
    name: 'Fen folk',
    items: [item],
    tiers: [
      { name: 'free', says: '', items: [] },
      { name: 'bought', says: '', items: [0] },
    ],
    words: [],
    guide: [],
    listings: [],
    reports: [],
    ...release,
  },
  items: [view],
  issues: [],
  listings: [],
  joined: [],
  ...over,
});
const sheet = {
  page: {
    id: 1,
    name: 'Ferrywoman',
    looked: 'e1',
    editions: [{ id: 'e1', name: 'First edition', proofed: 'Not proofed: nothing on record.' }],
    cautions: [],
  },
  build: { key: 'k', parts: [], findings: [], unseen: [] },
  picking: { ask: vi.fn(), leave: vi.fn(), asked: null },
  showPlace: vi.fn(),
  leaveAct: vi.fn(),
  acts: { stale: false },
} as unknown as Sheet;

function shown(name?: string) {
  const inside = name ? (
    station
      .acts?.(sheet)
      .find((one) => one.name === name)
      ?.fields?.(sheet)
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

const last = (method: string) => sent.findLast((one) => one.method === method);
const put = () => (last('PUT')?.body as { release: ReleaseSet } | undefined)?.release;

beforeEach(() => {
  answers = {};
  sent.length = 0;
  sets = [];
  vi.clearAllMocks();
});
afterEach(cleanup);

it('begins a set with the edition that is looked at, in the last pack', async () => {
  shown();
  expect(await screen.findByRole('heading', { name: 'In no release set yet' })).toBeTruthy();
  cleanup();
  shown('Say what goes out');
  fireEvent.change(await screen.findByLabelText('Packs for whom, with commas between'), {
    target: { value: 'free, , bought, free' },
  });
  fireEvent.click(screen.getByRole('button', { name: 'Begin the set' }));
  await waitFor(() => expect(last('POST')).toBeTruthy());
  const begun = last('POST')?.body as ReleaseSet;
  expect(begun.tiers.map(({ name, items }) => [name, items])).toEqual([
    ['free', []],
    ['bought', [0]],
  ]);
  expect(begun.items).toEqual([item]);
});

it('says first what keeps it from going out, and counts the rest', async () => {
  const holds = ['a', 'b', 'c', 'd'].map((code) => ({
    item: 0,
    code,
    title: `Stop ${code}`,
    why: 'Mend it.',
  }));
  sets = [set({}, { items: [{ ...view, holds }] })];
  shown();
  expect(await screen.findByRole('heading', { name: 'Fen folk: 1 item cannot go out yet' })).toBeTruthy();
  expect(screen.getByText('Stop a. Mend it.')).toBeTruthy();
  expect(screen.queryByText('Stop c. Mend it.')).toBeNull();
  expect(screen.getByText(/And 2 more that stop it/)).toBeTruthy();
});

it('shows at a glance who needs an issue and what is to be replaced where', async () => {
  const change = { item: 'ferrywoman_75mm', state: 'changed', changed: ['Crest'], added: [], gone: [] };
  sets = [
    set(
      { listings: [listing] },
      {
        issues: [issue(2, { items: [change] }), issue(1)],
        listings: [
          { offer: 'o', issue: 2, proposed: '', rows: [row('file', false, true), row('title', true)] },
        ],
      },
    ),
  ];
  shown();
  expect(await screen.findByText('Whoever prints ferrywoman_75mm needs it: Crest changed.')).toBeTruthy();
  expect(screen.getByText(/issue 1 is to be replaced by 2: file/)).toBeTruthy();
  expect(screen.getByRole('heading', { name: 'Fen folk: something to fill in at 1 shop' })).toBeTruthy();
});

it('ticks what was filled in as it is now, and takes a tick back', async () => {
  sets = [
    set(
      { listings: [listing] },
      {
        issues: [issue(2)],
        listings: [
          { offer: 'o', issue: 2, proposed: '', rows: [row('file', false, true), row('title', true)] },
        ],
      },
    ),
  ];
  shown('Offer it in shops');
  fireEvent.click(await screen.findByRole('checkbox', { name: /file/ }));
  await waitFor(() => expect(put()).toBeTruthy());
  expect(put()?.listings[0]?.ticked).toEqual({ title: 'd-title', file: 'd-file' });
  expect(put()?.listings[0]?.holds).toBe(2);
  sent.length = 0;
  fireEvent.click(screen.getByRole('checkbox', { name: /title/ }));
  await waitFor(() => expect(put()).toBeTruthy());
  expect(put()?.listings[0]?.ticked).toEqual({});
  // A shop without an address cannot be published to.
  expect(screen.queryByRole('button', { name: /Publish|Replace/ })).toBeNull();
});

it('takes an item out and moves what stands behind it, with its reports', async () => {
  const report = { id: 'r', came: '2026-12-26', issue: 1, item: 1, part: '', cause: 'warp', ending: null };
  sets = [
    set({
      items: [item, { ...item, mirrored: true }],
      tiers: [{ name: 'bought', says: '', items: [0, 1] }],
      reports: [report, { ...report, id: 's', item: 0 }],
    }),
  ];
  shown('Say what goes out');
  fireEvent.click(await screen.findByRole('button', { name: 'Take out Ferrywoman, First edition, 75.0 mm' }));
  fireEvent.click(screen.getByRole('button', { name: 'Keep it so' }));
  await waitFor(() => expect(put()).toBeTruthy());
  expect(put()?.items).toEqual([{ ...item, mirrored: true }]);
  expect(put()?.tiers[0]?.items).toEqual([0]);
  expect(put()?.reports.map((one) => one.item)).toEqual([0, null]);
});

it('ends reports of one thing together, with a sentence in the guide', async () => {
  const report = {
    came: '2026-12-26',
    shop: 'Reed market',
    issue: 1,
    item: 0,
    part: 'figure.2-upper',
    cause: 'thin-part',
    setting: 'clear resin',
    says: 'It broke.',
    ending: null,
  };
  const ids = ['a', 'b'];
  sets = [
    set(
      { reports: ids.map((id) => ({ ...report, id })) },
      {
        issues: [issue(1)],
        joined: [{ figure: 1, part: report.part, cause: report.cause, ids, open: ids, point: [0, 0, 30] }],
      },
    ),
  ];
  shown('Take in what buyers report');
  fireEvent.click(await screen.findByText('show the place on the figure'));
  expect(sheet.showPlace).toHaveBeenCalledWith('figure.2-upper', [0, 0, 30]);
  fireEvent.mouseDown(screen.getByLabelText('It ends in'));
  fireEvent.click(screen.getByRole('option', { name: 'a sentence in the guide' }));
  fireEvent.change(screen.getByLabelText('The sentence'), { target: { value: 'Cut the crest free last.' } });
  fireEvent.click(screen.getByRole('button', { name: 'End these 2 reports' }));
  await waitFor(() => expect(put()).toBeTruthy());
  expect(put()?.guide).toEqual([{ says: 'Cut the crest free last.', report: 'a' }]);
  expect(put()?.reports.map(({ ending }) => ending?.kind)).toEqual(['guide', 'guide']);
});

it('packs nothing on a day that is none, and says what is not proofed', async () => {
  sets = [set()];
  shown('Pack an issue');
  expect(await screen.findByText(/1 item not proofed in exactly this form/)).toBeTruthy();
  const pack = screen.getByRole('button', { name: 'Pack issue 1' });
  fireEvent.change(screen.getByLabelText('The day it is of'), { target: { value: '' } });
  expect(pack).toHaveProperty('disabled', true);
  fireEvent.change(screen.getByLabelText('The day it is of'), { target: { value: '2026-12-24' } });
  fireEvent.click(pack);
  await waitFor(() => expect(last('POST')?.body).toEqual({ date: '2026-12-24' }));
});

it('takes an edition of another figure into the set, once', async () => {
  sets = [set()];
  answers = {
    'GET /api/shelf': [
      { id: 1, name: 'Ferrywoman' },
      { id: 2, name: 'Reed imp' },
    ],
    'GET /api/figures/{number}': { id: 2, name: 'Reed imp', editions: [{ id: 'e9', name: 'Small' }] },
  };
  shown('Say what goes out');
  const add = await screen.findByRole('button', { name: 'Add it to the set', hidden: true });
  expect(add).toHaveProperty('disabled', true);
  fireEvent.mouseDown(screen.getByRole('combobox', { name: 'Figure', hidden: true }));
  fireEvent.click(await screen.findByRole('option', { name: 'Reed imp' }));
  await waitFor(() => expect(add).toHaveProperty('disabled', false));
  fireEvent.click(add);
  expect(screen.getByRole('group', { name: 'Reed imp, Small' })).toBeTruthy();
  expect(add).toHaveProperty('disabled', true);
  fireEvent.click(screen.getByRole('button', { name: 'Keep it so' }));
  await waitFor(() => expect(put()).toBeTruthy());
  expect(put()?.items.map(({ figure, edition }) => [figure, edition])).toEqual([
    [1, 'e1'],
    [2, 'e9'],
  ]);
  expect(put()?.tiers.at(-1)?.items).toEqual([0, 1]);
});

it('publishes as work that goes on by itself, and says why it did not come about', async () => {
  const job = { id: 5, state: 'failed', error: 'The shop does not answer.', seen: [], made: {} };
  sets = [
    set(
      { listings: [{ ...listing, address: 'http://127.0.0.1:8478' }] },
      { issues: [issue(2)], listings: [{ offer: 'o', issue: 2, proposed: '', rows: [row('file', false)] }] },
    ),
  ];
  answers = { 'POST /api/release-sets/{number}/listings/{offer}/publish': job };
  shown('Offer it in shops');
  fireEvent.click(await screen.findByRole('button', { name: 'Replace issue 1 there' }));
  expect((await screen.findByRole('alert')).textContent).toBe('The shop does not answer.');
  answers = {
    'POST /api/release-sets/{number}/listings/{offer}/publish': {
      ...job,
      id: 6,
      state: 'cancelled',
      error: '',
    },
  };
  fireEvent.click(screen.getByRole('button', { name: 'Replace issue 1 there' }));
  await waitFor(() => expect(screen.getByRole('alert').textContent).toContain('Publishing was stopped'));
});

it('takes a set up again that was put away', async () => {
  sets = [set()];
  shown();
  const away = await screen.findByRole('button', { name: 'put this set away' });
  sets = [];
  fireEvent.click(away);
  const back = await screen.findByRole('button', { name: 'put back the set that was put away' });
  expect(last('DELETE')?.path).toBe('/api/release-sets/{number}');
  sets = [set()];
  fireEvent.click(back);
  expect(await screen.findByRole('region', { name: 'Fen folk' })).toBeTruthy();
  expect(last('POST')?.path).toBe('/api/release-sets/{number}/back');
  expect(screen.queryByRole('button', { name: /put back/ })).toBeNull();
});
