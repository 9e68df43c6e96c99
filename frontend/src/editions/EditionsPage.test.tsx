// @vitest-environment jsdom

import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { MemoryRouter, Route, Routes } from 'react-router';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { EditionView, FigurePage } from '../app/client';
import { changedBy } from '../figure/useFigure';
import type { Sent } from '../testing/answering';
import EditionsPage from './EditionsPage';

const edition = (id: string, name: string, height: number, over: Partial<EditionView> = {}): EditionView => ({
  id,
  name,
  sized_by: '',
  made: {
    height,
    factor: null,
    setting: 'grey',
    part_settings: {},
    variant: '',
    form: { hollow: true, parted: true, pockets: true, mirrored: false },
    use: 'tabletop',
    sanding: 0,
  },
  setting: 'Grey, fine',
  material: 'Grey resin',
  retired: false,
  form: '',
  unlike: ['size'],
  built: true,
  proofed: 'Not proofed.',
  held_in: null,
  picture: 'p',
  size_mm: [10, 10, height],
  marks: { stop: 2, caution: 1, note: 0 },
  seconds: 3600,
  ml: 4.2,
  money: 0.18,
  ...over,
});

const page = (looked: string, editions: EditionView[]): FigurePage =>
  ({
    id: 4,
    name: 'Ferrywoman',
    revision: 7,
    changes: 9,
    looked,
    edition: editions.find(({ id }) => id === looked)?.made,
    editions,
    can_undo: true,
    can_redo: false,
    build: { key: 'k' },
    job: null,
  }) as unknown as FigurePage;

const two = () => [edition('e1', 'Tabletop', 32), edition('e2', 'Cabinet', 75)];
let answer: FigurePage;
let sent: Sent[];

vi.mock('../app/client', async (original) => ({
  ...(await original<object>()),
  api: (await import('../testing/answering')).answering((one) => {
    sent.push(one);
    return { data: answer, response: { ok: true } };
  }),
}));

beforeEach(() => {
  answer = page('e1', two());
  sent = [];
  Element.prototype.scrollIntoView = vi.fn();
});
afterEach(cleanup);

const show = () =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter initialEntries={['/figures/4/editions?edition=e1']}>
        <Routes>
          <Route path="/figures/:number/editions" element={<EditionsPage />} />
          <Route path="*" element={<p>another sheet</p>} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );

describe('the editions of a figure', () => {
  it('stand beside each other at true relative size, with what is found and what it takes', async () => {
    show();
    const [small, large] = await screen.findAllByRole('button', { pressed: undefined, name: /mm/ });
    const tall = (button: HTMLElement | undefined) => Number(button?.querySelector('img')?.height);
    expect(tall(large) / tall(small)).toBeCloseTo(75 / 32, 1);
    expect(large?.textContent).toContain('unlike Tabletop in size');
    expect(small?.textContent).toContain('1 h, 4.2 ml, 0.18');
  });

  it('is added like the one that is looked at, under a name that is asked for', async () => {
    show();
    await screen.findByRole('heading', { name: 'Tabletop' });
    fireEvent.keyDown(document.body, { key: 'c' });
    fireEvent.change(screen.getByLabelText('Name of the edition'), { target: { value: 'Limbs tough' } });
    answer = page('e3', [...two(), edition('e3', 'Limbs tough', 32)]);
    fireEvent.click(screen.getByRole('button', { name: 'Keep that name' }));
    await waitFor(() => expect(sent.find(({ method }) => method === 'POST')).toBeTruthy());
    const added = sent.find(({ method }) => method === 'POST');
    expect(added?.path).toBe('/api/figures/{number}/editions');
    expect(added?.body).toMatchObject({ name: 'Limbs tough', made: { height: 32 } });
    expect(await screen.findByRole('heading', { name: 'Limbs tough' })).toBeTruthy();
  });

  it('are turned, taken out and undone by the keys; the last stays', async () => {
    answer = page('e1', [edition('e1', 'Tabletop', 32)]);
    show();
    await screen.findByRole('heading', { name: 'Tabletop' });
    fireEvent.keyDown(document.body, { key: 'Delete' });
    expect(sent.every(({ method }) => method === 'GET')).toBe(true);
    expect((screen.getByRole('button', { name: /Take it out/ }) as HTMLButtonElement).disabled).toBe(true);
    fireEvent.keyDown(document.body, { key: 'u' });
    await waitFor(() => expect(sent.at(-1)?.path).toBe('/api/figures/{number}/undo'));
    fireEvent.keyDown(document.body, { key: 'Enter' });
    expect(await screen.findByText('another sheet')).toBeTruthy();
  });

  it('say what is not checked yet, and check all of it', async () => {
    const bare = {
      built: false,
      picture: null,
      size_mm: null,
      marks: null,
      seconds: null,
      ml: null,
      money: null,
    };
    answer = page('e1', [
      edition('e1', 'Tabletop', 32),
      edition('e2', 'Cabinet', 75, { ...bare, retired: true }),
    ]);
    show();
    expect(await screen.findByText('its setting is retired')).toBeTruthy();
    expect(screen.getByText('1 edition not checked yet')).toBeTruthy();
    fireEvent.keyDown(document.body, { key: 'e' });
    await waitFor(() => expect(sent.at(-1)?.path).toBe('/api/figures/{number}/editions/checks'));
  });
});

describe('what an undo changed', () => {
  const renamed = [edition('e1', 'Tabletop', 32), edition('e2', 'Vitrine', 75)];
  it.each([
    [page('e1', two()), page('e1', renamed), 'Taken back, of Vitrine.'],
    [page('e1', two()), page('e1', two()), 'Taken back, in all editions.'],
    [
      page('e2', two()),
      page('e1', two().slice(0, 1)),
      'Taken back, of Cabinet. The edition that was looked at is gone: this is the first.',
    ],
    [page('e1', two().slice(0, 1)), page('e1', two().slice(0, 1)), ''],
  ])('%#', (before, after, said) => expect(changedBy('Taken back', before, after)).toBe(said));
});
