// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { ShelfFigure } from '../app/client';
import { ledgesOf } from './ledges';
import { Shelf } from './Shelf';

let shelf: ShelfFigure[];
let sent: [string, unknown][];

vi.mock('../app/client', async (original) => ({
  ...(await original<object>()),
  api: Object.fromEntries(
    ['GET', 'POST', 'PUT', 'DELETE'].map((method) => [
      method,
      (
        path: string,
        asked: { body?: { collection?: string }; params?: { path: { number: number } } } = {},
      ) => {
        if (method !== 'GET') sent.push([`${method} ${path}`, { ...asked.params?.path, ...asked.body }]);
        const { collection } = asked.body ?? {};
        if (collection !== undefined)
          shelf = shelf.map((one) => (one.id === asked.params?.path.number ? { ...one, collection } : one));
        const data = path.includes('deleted') ? [] : path === '/api/disk' ? null : shelf;
        return Promise.resolve({ data, response: { ok: true } });
      },
    ]),
  ),
}));

const figure = (id: number, name: string, collection: string, tall: number, next: string, station = 'mend') =>
  ({
    id,
    name,
    collection,
    size_mm: [tall / 2, tall / 3, tall],
    picture: 'p',
    marks: { stop: 0, caution: 0, note: 0 },
    next,
    next_station: station,
    trouble: '',
    job: null,
  }) as unknown as ShelfFigure;

beforeEach(() => {
  sent = [];
  shelf = [
    figure(9, 'Mooring shrine', '', 320, 'The surface is open'),
    figure(1, 'Ferrywoman', 'Fen folk', 75, 'Wall 0.14 mm', 'gauge'),
    ...[2, 3, 4, 5].map((id) => figure(id, `Imp ${id}`, 'Imps', 28, 'nothing open', 'release')),
    figure(6, 'Toll keeper', 'Fen folk', 60, '3 walls too thin', 'gauge'),
  ];
});
afterEach(cleanup);

async function shown() {
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter>
        <Shelf />
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await screen.findByText('Ferrywoman');
}
const ledge = (name: string) => screen.getByRole('region', { name });
const names = (of: HTMLElement) =>
  within(of)
    .getAllByRole('heading', { level: 3 })
    .map((one) => one.textContent);
const height = (name: string) => screen.getByText(name).closest('a')?.querySelector('img')?.height ?? 0;

it('stands on ledges by collection, the one worked on last first', async () => {
  await shown();
  expect(names(ledge('Fen folk'))).toEqual(['Ferrywoman', 'Toll keeper']);
  expect(ledgesOf(shelf, { words: '', next: '' }).map(({ collection }) => collection)).toEqual([
    '',
    'Fen folk',
    'Imps',
  ]);
});

it('is drawn to scale on a ledge, and on one ruler over all', async () => {
  await shown();
  expect(height('Toll keeper') / height('Ferrywoman')).toBeCloseTo(60 / 75, 1);
  expect(height('Imp 2')).toBe(height('Mooring shrine'));
  fireEvent.click(screen.getByText('all on one ruler'));
  expect(height('Ferrywoman') / height('Mooring shrine')).toBeCloseTo(75 / 320, 1);
});

it('is looked through by name, by what is next and by where, and says how many are not shown', async () => {
  await shown();
  const field = screen.getByLabelText('Find by name, or by what is next');
  fireEvent.change(field, { target: { value: 'wall fen' } });
  expect(screen.getByRole('search').textContent).toContain('2 of 7 figures');
  expect(screen.queryByText('Imp 2')).toBeNull();
  fireEvent.change(field, { target: { value: 'griffin' } });
  expect(screen.getByText(/Nothing on the shelf goes by that/)).toBeTruthy();
  fireEvent.click(screen.getByText('Show all figures'));
  fireEvent.mouseDown(screen.getByLabelText('What is next is at'));
  fireEvent.click(screen.getByRole('option', { name: 'Release' }));
  expect(screen.getByRole('search').textContent).toContain('4 of 7 figures');
});

it('is moved by keys, and the move is taken back', async () => {
  await shown();
  fireEvent.keyDown(document.body, { key: 'ArrowRight' });
  fireEvent.keyDown(document.body, { key: 'ArrowRight' });
  expect(document.activeElement?.textContent).toContain('Ferrywoman');
  fireEvent.keyDown(document.activeElement as Element, { key: 'm' });
  fireEvent.change(screen.getByLabelText('Name of the collection'), { target: { value: 'Boats' } });
  fireEvent.click(screen.getByRole('button', { name: 'Keep that name' }));
  expect(await screen.findByText('Ferrywoman stands in Boats now.')).toBeTruthy();
  expect(names(ledge('Boats'))).toEqual(['Ferrywoman']);
  fireEvent.click(screen.getByRole('button', { name: /undo/ }));
  await vi.waitFor(() => expect(names(ledge('Fen folk'))).toContain('Ferrywoman'));
  expect(sent.map(([, body]) => body)).toEqual([
    { number: 1, collection: 'Boats' },
    { number: 1, collection: 'Fen folk' },
  ]);
});

it('is moved by a drag to another ledge', async () => {
  await shown();
  const held = new Map<string, string>();
  const dataTransfer = {
    setData: (kind: string, text: string) => held.set(kind, text),
    getData: (kind: string) => held.get(kind),
    get types() {
      return [...held.keys()];
    },
  };
  fireEvent.dragStart(screen.getByText('Toll keeper').closest('a') as Element, { dataTransfer });
  fireEvent.drop(ledge('Imps'), { dataTransfer });
  await vi.waitFor(() => expect(names(ledge('Imps'))).toContain('Toll keeper'));
});

it('is renamed and copied from there', async () => {
  await shown();
  fireEvent.click(screen.getByRole('button', { name: 'Copy Ferrywoman' }));
  fireEvent.click(screen.getByRole('button', { name: 'Rename Ferrywoman' }));
  const field = screen.getByLabelText('Name of the figure');
  fireEvent.change(field, { target: { value: ' ' } });
  expect(screen.getByRole('button', { name: 'Keep that name' })).toHaveProperty('disabled', true);
  fireEvent.change(field, { target: { value: 'Ferryman ' } });
  fireEvent.click(screen.getByRole('button', { name: 'Keep that name' }));
  await vi.waitFor(() =>
    expect(sent).toEqual([
      ['POST /api/figures/{number}/copies', { number: 1 }],
      ['PUT /api/figures/{number}/name', { number: 1, name: 'Ferryman' }],
    ]),
  );
});
