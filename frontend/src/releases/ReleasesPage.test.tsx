// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen, within } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, expect, it, vi } from 'vitest';

import ReleasesPage from './ReleasesPage';

let answer: { data?: object; error?: string } = {};

vi.mock('../app/client', async (original) => {
  const { answering: by } = await import('../testing/answering');
  return {
    ...(await original<object>()),
    api: by(() => ({ data: answer, response: new Response() })),
    dataOf: async (asked: Promise<{ data: typeof answer }>) => {
      const { data } = await asked;
      if (data.error) throw new Error(data.error);
      return data.data;
    },
  };
});

const row = (what: string, done: boolean) => ({ what, value: '', digest: '', done, changed: false });
const issue = (number: number, tiers = ['bought']) => ({
  number,
  date: '2026-12-24',
  packs: tiers.map((tier) => ({ tier })),
});
const listing = (shop: string, holds: number | null, buyers = 0) => ({ shop, tier: 'bought', holds, buyers });
const set = (name: string, over: object = {}, release: object = {}) => ({
  number: name.length,
  release: {
    name,
    items: [{ figure: 4, edition: 'e2' }],
    tiers: [{ name: 'bought' }],
    listings: [],
    ...release,
  },
  issues: [],
  listings: [],
  joined: [],
  ...over,
});

function shown(sets: object[], unreadable = 0) {
  answer = { data: { sets, unreadable } };
  open();
}
function open() {
  render(
    <MemoryRouter>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        <ReleasesPage />
      </QueryClientProvider>
    </MemoryRouter>,
  );
}
const rows = async () => {
  const table = await screen.findByRole('table', { name: 'Packs by shop' });
  return within(table)
    .getAllByRole('row')
    .slice(1)
    .map((one) => [...one.children].map((cell) => cell.textContent));
};

afterEach(() => {
  cleanup();
  answer = {};
});

it('puts shops first that have what was replaced, and counts what is to be done', async () => {
  const behind = set(
    'Otters',
    {
      issues: [issue(2), issue(1)],
      listings: [{ offer: 'a', issue: 2, rows: [row('file', false), row('title', true)] }],
      joined: [{ open: ['r1'] }, { open: [] }],
    },
    { listings: [listing('Reed market', 1, 12)] },
  );
  const inPlace = set(
    'Imps',
    { issues: [issue(1)], listings: [{ offer: 'b', issue: 1, rows: [row('file', true)] }] },
    { listings: [listing('Quay', 1, 3)] },
  );
  shown([inPlace]);
  expect(await screen.findByRole('heading', { name: 'Every shop has what it should have' })).toBeTruthy();
  cleanup();
  shown([inPlace, behind]);
  expect(await screen.findByRole('heading', { name: '1 shop to see to, 1 report to answer' })).toBeTruthy();
  const [first, second] = await rows();
  expect(first).toEqual([
    'Otters, bought',
    'Reed market',
    'issue 1 is to be replaced by 2: file',
    expect.stringMatching(/^2, /),
    '12',
    '1',
  ]);
  expect(second?.slice(0, 3)).toEqual(['Imps, bought', 'Quay', 'issue 1 is in place']);
  expect(second?.[5]).toBe('–');
  expect(screen.getByRole('link', { name: 'Otters' }).getAttribute('href')).toBe(
    '/figures/4/release?edition=e2',
  );
});

it('lists packs that no shop offers, also of a tier that was never packed', async () => {
  const tiers = [{ name: 'free' }, { name: 'bought' }];
  shown([set('Imps', { issues: [issue(3)] }, { tiers, items: [] })]);
  expect((await rows()).map((cells) => cells?.slice(0, 3))).toEqual([
    ['Imps, free', 'offered nowhere', 'nothing was packed yet'],
    ['Imps, bought', 'offered nowhere', 'issue 3 is packed'],
  ]);
  expect(screen.queryByRole('link', { name: 'Imps' })).toBeNull();
  expect(screen.getByRole('heading', { name: 'Packed, and in no shop yet' })).toBeTruthy();
});

it('counts a shop once, however many packs it is to be given', async () => {
  const tiers = [{ name: 'free' }, { name: 'bought' }];
  const listings = tiers.map(({ name }) => ({ ...listing('Quay', 1), tier: name }));
  const views = tiers.map(({ name }) => ({ offer: name, issue: 2, rows: [row('file', false)] }));
  shown([set('Imps', { issues: [issue(2, ['free', 'bought'])], listings: views }, { tiers, listings })]);
  expect(await screen.findByRole('heading', { name: '1 shop to see to' })).toBeTruthy();
  expect(await rows()).toHaveLength(2);
});

it('says where a first set is begun, and tells of sets that cannot be read', async () => {
  shown([], 2);
  expect(await screen.findByRole('heading', { name: 'Nothing goes out yet' })).toBeTruthy();
  expect(screen.getByText(/begun on a figure, at its station Release/)).toBeTruthy();
  expect(screen.getByText(/2 sets that another version of Ulvet wrote cannot be read/)).toBeTruthy();
  expect(screen.queryByRole('table')).toBeNull();
});

it('says what went wrong where the sets cannot be had', async () => {
  answer = { error: 'The server cannot be reached.' };
  open();
  expect((await screen.findByRole('alert')).textContent).toBe('The server cannot be reached.');
  expect(screen.queryByText('Nothing goes out yet')).toBeNull();
});
