// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import type { ReactNode } from 'react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import BitsPage from './BitsPage';
import LineUpPage from './LineUpPage';
import ScannerPage from './ScannerPage';

const ANSWERS: Record<string, unknown> = {};
let sent: { path: string; asked: { params?: object; body?: object } }[];
let refuses = '';

vi.mock('../app/client', async (original) => ({
  ...(await original<object>()),
  api: Object.fromEntries(
    ['GET', 'POST', 'DELETE'].map((method) => [
      method,
      (path: string, asked: object = {}) => {
        if (method !== 'GET') sent.push({ path, asked });
        return Promise.resolve(
          method !== 'GET' && refuses
            ? { error: { detail: refuses }, response: { ok: false } }
            : { data: ANSWERS[path] ?? {}, response: { ok: true } },
        );
      },
    ]),
  ),
}));
vi.mock('../app/jobs', async (original) => ({
  ...(await original<object>()),
  ended: () => Promise.resolve(ANSWERS.ended),
}));

const show = (inside: ReactNode, at = '/') =>
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter initialEntries={[at]}>{inside}</MemoryRouter>
    </QueryClientProvider>,
  );
const figure = (id: number, name: string, height: number | null) => ({
  id,
  name,
  size_mm: height && [10, 10, height],
});

beforeEach(() => {
  sent = [];
  refuses = '';
  ANSWERS['/api/scanner'] = {
    device: 'A scanner',
    smallest_mm: 15,
    largest_mm: 300,
    objects: { driftwood: 'Driftwood on its mount', 'clay-otter': 'Otter of clay' },
    settings: { steps: 8, tilts: [8, 34], distance: 420, noise: 0.05 },
  };
  ANSWERS['/api/shelf'] = [figure(1, 'Heron', 75), figure(2, 'Imp', 28), figure(3, 'Unchecked', null)];
  ANSWERS['/api/bits'] = [
    { id: 7, name: 'Otter', tags: ['bow'], picture: 'p', size_mm: [40, 55, 60], figure: 'Bow', terms: 'MIT' },
  ];
  ANSWERS['/api/figures/{number}'] = {
    id: 4,
    name: 'Punt',
    revision: 6,
    build: { size_mm: [30, 10, 10], parts: [{ facts: { part: 'hull', factor: 0.5 } }] },
  };
});
afterEach(cleanup);

describe('the scanner', () => {
  it('counts its passes, and waits for numbers it can use', async () => {
    show(<ScannerPage />);
    const scan = await screen.findByRole('button', { name: 'Scan it in 16 passes' });
    for (const [label, text] of [
      ['Stops in one round', '2'],
      ['Stops in one round', '6.5'],
      ['Looking down by, degrees', 'steep'],
    ] as const) {
      const field = screen.getByLabelText(label);
      const before = (field as HTMLInputElement).value;
      fireEvent.change(field, { target: { value: text } });
      expect(scan).toHaveProperty('disabled', true);
      fireEvent.change(field, { target: { value: before } });
    }
    fireEvent.change(screen.getByLabelText('Looking down by, degrees'), { target: { value: '5; 20 60' } });
    expect(screen.getByRole('button', { name: 'Scan it in 24 passes' })).toBeTruthy();
    expect(screen.getByRole('img', { name: /8 stops on 3 rings/ })).toBeTruthy();
  });

  it('asks for what was set, and says what the device refused', async () => {
    ANSWERS.ended = { state: 'failed', error: 'Nothing is on the turntable.', made: {} };
    show(<ScannerPage />);
    fireEvent.click(await screen.findByRole('button', { name: 'Scan it in 16 passes' }));
    expect(await screen.findByText('Nothing is on the turntable.')).toBeTruthy();
    expect(sent[0]?.asked.body).toMatchObject({
      object: 'driftwood',
      settings: { steps: 8, tilts: [8, 34], distance: 420, noise: 0.05 },
    });
  });
});

describe('the line-up', () => {
  const drawn = () => screen.getByAltText(/Silhouettes/).getAttribute('src');

  it('shows whoever is measured, the figure one came from first, and takes others out', async () => {
    show(<LineUpPage />, '/line-up?figures=2');
    await screen.findByLabelText('Imp, 28.0 mm');
    expect(screen.queryByText(/Unchecked/)).toBeNull();
    expect(drawn()).toBe('/api/line-up.svg?figures=2&figures=1&hand=false');
    fireEvent.click(screen.getByLabelText('Heron, 75.0 mm'));
    fireEvent.click(screen.getByLabelText(/grown hand/));
    expect(drawn()).toBe('/api/line-up.svg?figures=2&hand=true');
    expect(screen.getAllByText('On paper, true size')[0]?.getAttribute('href')).toBe(
      '/api/line-up.pdf?figures=2&hand=true&paper=a4',
    );
    fireEvent.click(screen.getByLabelText('Imp, 28.0 mm'));
    expect(screen.getByText('Nobody stands here: tick a figure.')).toBeTruthy();
  });

  it('draws no band of lengths that are none', async () => {
    show(<LineUpPage />);
    expect((await screen.findByAltText('The band, unrolled')).getAttribute('src')).toContain('girth=94');
    fireEvent.change(screen.getByLabelText('Girth below, mm'), { target: { value: '0' } });
    expect(screen.queryByAltText('The band, unrolled')).toBeNull();
  });
});

describe('the shelf of bits', () => {
  it('stands a bit beside the figure it is put in, on the revision that was seen', async () => {
    show(<BitsPage />, '/bits?figure=4');
    fireEvent.click(await screen.findByRole('button', { name: 'Put it in Punt' }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.asked.params).toEqual({ path: { number: 4 }, header: { 'If-Match': 6 } });
    // Half the figure of 60 mm and half the bit, with two millimetres between.
    expect(sent[0]?.asked.body).toEqual({ bit: 7, at: [52, 0, 0] });
  });

  it('says what was refused, and keeps what is there', async () => {
    show(<BitsPage />, '/bits?figure=4');
    refuses = 'The figure was changed elsewhere.';
    fireEvent.click(await screen.findByRole('button', { name: 'Put it in Punt' }));
    expect(await screen.findByText('The figure was changed elsewhere.')).toBeTruthy();
    expect(screen.getByRole('heading', { name: 'Otter' })).toBeTruthy();
  });

  it('has nothing to put bits into without a figure, and says so when it is empty', async () => {
    show(<BitsPage />);
    expect(await screen.findByRole('heading', { name: 'Otter' })).toBeTruthy();
    expect(screen.queryByRole('button', { name: /Put it in/ })).toBeNull();
    cleanup();
    ANSWERS['/api/bits'] = [];
    show(<BitsPage />);
    expect(await screen.findByText(/No bits yet/)).toBeTruthy();
    fireEvent.change(screen.getByLabelText(/Words of its name/), { target: { value: 'heron' } });
    expect(await screen.findByText('No bit goes by these words.')).toBeTruthy();
  });

  it('puts back what was taken off', async () => {
    show(<BitsPage />);
    fireEvent.click(await screen.findByText('take off the shelf'));
    expect(await screen.findByText(/Otter is off the shelf; figures that use it keep it/)).toBeTruthy();
    fireEvent.keyDown(document.body, { key: 'u' });
    await waitFor(() => expect(screen.queryByText(/is off the shelf/)).toBeNull());
    expect(sent.map(({ path }) => path)).toEqual(['/api/bits/{bit}', '/api/bits/{bit}/put-back']);
  });

  it('shelves a part under its name and tags', async () => {
    show(<BitsPage />, '/bits?figure=4');
    fireEvent.change(await screen.findByLabelText('Name of the bit'), { target: { value: 'Hull' } });
    fireEvent.change(screen.getByLabelText('Tags, by commas'), { target: { value: 'wood, boat' } });
    fireEvent.click(screen.getByRole('button', { name: 'Put Punt here' }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.asked.body).toEqual({ figure: 4, part: 'hull', name: 'Hull', tags: ['wood', ' boat'] });
  });
});
