// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { MemoryRouter, Route, Routes } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { Sent } from '../testing/answering';
import VersionsPage from './VersionsPage';

const sent: Sent[] = [];
let answers: Record<string, unknown> = {};
let ends: object = {};

vi.mock('../app/client', async (original) => {
  const { answering: by } = await import('../testing/answering');
  return {
    ...(await original<object>()),
    api: by((request) => {
      sent.push(request);
      return { data: answers[`${request.method} ${request.path}`] ?? {}, response: new Response() };
    }),
    dataOf: async (asked: Promise<{ data: unknown }>) => (await asked).data,
  };
});
vi.mock('../app/jobs', async (original) => ({
  ...(await original<object>()),
  ended: () => Promise.resolve(ends),
}));
vi.mock('../chart/Chart', () => ({
  Chart: ({ part, tints }: { part: { display: string }; tints?: { rows: string[] } }) => (
    <p>
      drawn {part.display} {tints ? tints.rows.join(', ') : 'untinted'}
    </p>
  ),
}));

const facts = (part: string) => ({
  part,
  size_mm: [10, 10, 75],
  volume_mm3: 4000,
  triangles: 1200,
  called: part,
});
const version = (number: number, over: object = {}) => ({
  number,
  says: `what ${number} is for`,
  size_mm: [10, 10, 70 + number],
  frozen: '2026-11-20T10:00:00Z',
  editions: ['First edition'],
  not_built: [],
  marks: null,
  ...over,
});
const comparison = (over: object = {}) => ({
  before: 'a',
  after: 'b',
  matched: [],
  facts_before: [facts('body')],
  facts_after: [facts('body'), facts('hood')],
  moved: [
    { part: 'body', greatest: 0.4, mean: 0.1, display: 'd-body' },
    { part: 'hood', greatest: 0, mean: 0, display: 'd-hood' },
  ],
  gone: [],
  added: [],
  ...over,
});

function show(versions: object[], compared: object = comparison()) {
  answers = {
    'GET /api/figures/{number}': {
      name: 'Ferrywoman',
      revision: 7,
      build: { key: 'k', parts: [{ facts: facts('body'), tips: [] }] },
    },
    'GET /api/figures/{number}/versions': versions,
    'GET /api/comparisons/{name}': compared,
    'POST /api/figures/{number}/comparisons': { id: 1 },
    'POST /api/figures/{number}/versions': version(3),
  };
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter initialEntries={['/figures/4/versions']}>
        <Routes>
          <Route path="/figures/:number/versions" element={<VersionsPage />} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}
const asked = (path: string) => sent.filter((one) => one.method === 'POST' && one.path.endsWith(path));

beforeEach(() => {
  sent.length = 0;
  ends = { state: 'done', made: { comparison: 'c' }, error: '' };
});
afterEach(cleanup);

it('says what freezing is for where nothing is frozen, and compares nothing', async () => {
  show([]);
  expect(await screen.findByRole('heading', { name: 'Nothing frozen yet' })).toBeTruthy();
  expect(screen.getByText(/Freeze the figure when you print it/)).toBeTruthy();
  expect(screen.getByRole('button', { name: 'Freeze as version 1' })).toBeTruthy();
  expect(asked('/comparisons')).toEqual([]);
});

it('freezes what was seen, by its revision, and says what for', async () => {
  show([version(2), version(1)]);
  fireEvent.change(await screen.findByLabelText('What this version is for'), {
    target: { value: 'beak thicker' },
  });
  fireEvent.click(await screen.findByRole('button', { name: 'Freeze as version 3' }));
  await waitFor(() => expect(asked('/versions')).toHaveLength(1));
  expect(asked('/versions')[0]).toMatchObject({ body: { says: 'beak thicker' }, seen: 7 });
  await waitFor(() => expect(screen.getByLabelText('What this version is for')).toHaveProperty('value', ''));
});

it('sets the newest version against now, and draws where the surface moved', async () => {
  show([version(2), version(1)]);
  expect(await screen.findByRole('heading', { name: 'From version 2 to now' })).toBeTruthy();
  expect(await screen.findByText('drawn d-body over 0.30, 0.20, 0.10, 0.01, still')).toBeTruthy();
  expect(screen.getByText('0.40', { exact: false }).textContent).toContain('0.40');
  fireEvent.click(screen.getByRole('button', { name: 'hood' }));
  expect(screen.getByText('drawn d-hood untinted')).toBeTruthy();
  expect(screen.getByText('the surface did not move')).toBeTruthy();
});

it('sets one version against another', async () => {
  show([version(2), version(1)]);
  fireEvent.click(await screen.findByRole('button', { name: /Version 1/ }));
  expect(await screen.findByRole('heading', { name: 'From version 1 to now' })).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'against version 1' }));
  expect(await screen.findByRole('heading', { name: 'From version 1 to version 2' })).toBeTruthy();
});

it('says why there is no comparison, and where no part is in both', async () => {
  ends = { state: 'failed', made: {}, error: 'Version 2 cannot be read any more.' };
  show([version(2)]);
  expect(await screen.findByText('Version 2 cannot be read any more.')).toBeTruthy();
  expect(screen.getByText('Where the surface moved is drawn here.')).toBeTruthy();
  cleanup();
  ends = { state: 'done', made: { comparison: 'c' }, error: '' };
  show([version(2)], comparison({ moved: [] }));
  expect(await screen.findByText(/No part is in both/)).toBeTruthy();
});

it('names the editions of a version, and those that were not built then', async () => {
  show([version(1, { editions: ['First edition', 'Small'], not_built: ['Clear'] })]);
  expect(await screen.findByText('First edition, Small; not built then: Clear')).toBeTruthy();
});
