// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import type { ReactNode } from 'react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, FigurePage, Setup } from '../app/client';
import type { FigureActs } from '../figure/useFigure';
import { numberIn } from './Fields';
import { Credit } from './bring_in/Credit';
import { broughtIn, Terms } from './bring_in/Terms';
import { Ways } from './size/Ways';
import { unasked } from '../testing/unasked';

const LIST = {
  terms: [
    { id: 'own-work', name: 'My own work', line: 'You decide.' },
    { id: 'cc-by-4.0', name: 'CC BY 4.0', line: 'Name the maker.' },
  ],
  depicted: { person: 'a living person' },
  no_advice: 'No legal advice.',
};
const WORKED = {
  worked: { factor: 2, working: ['60 mm / 30 mm', 'factor 2'], turned: null },
  height: 60,
  size_mm: [24, 18, 60],
  near: { thin: 3, stops: 1, too_fine: 0 },
  estimate: { material_ml: 20, seconds: 9000, money: 0.8, model: 'Estimated from now.' },
  fits: false,
};
const because = (answer: string) => ({ answer, of: ['post.stl'] });
const build = {
  key: 'k',
  size_mm: [12, 9, 30],
  parts: [{ facts: { part: 'figure', factor: 1 } }],
  ghosts: [],
  estimate: { material_ml: 2.5, seconds: 5000, money: 0.11 },
  inherited: {
    share: because('yes'),
    sell: because('no'),
    alter: because('unanswered'),
    name_maker: because('yes'),
    alike: [],
  },
  steps: [
    {
      step: { kind: 'bring-in', id: 1, on: true, source: 's', name: 'post.stl' },
      sentence: ['Brought in.'],
      receipt: {},
    },
    {
      step: { kind: 'depict', id: 7, on: true },
      sentence: ['Depicts a living person.'],
      receipt: {},
    },
  ],
} as unknown as BuildRecord;
const page = {
  id: 4,
  edition: { height: 30, factor: null, setting: 'lantern-6-tough-grey' },
} as unknown as FigurePage;
const setup = { printer: { id: 'lantern-6', name: 'Lantern 6' } } as unknown as Setup;

let sent: { path: string; body: unknown }[];
const addStep = vi.fn();
const removeStep = vi.fn();
const setEdition = vi.fn();
const acts = { addStep, removeStep, setEdition, busy: false, stale: false } as unknown as FigureActs;
const show = (inside: ReactNode) =>
  render(<QueryClientProvider client={new QueryClient()}>{inside}</QueryClientProvider>);

vi.mock('../app/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: () => Promise.resolve({ data: LIST, response: { ok: true } }),
    POST: (path: string, asked: { body: unknown }) => {
      sent.push({ path, body: asked.body });
      return Promise.resolve({ data: WORKED, response: { ok: true } });
    },
  },
}));

beforeEach(() => {
  sent = [];
  vi.clearAllMocks();
});
const picking = unasked();
afterEach(cleanup);

describe('a number that was typed', () => {
  it('takes a comma, and nothing that is not above 0', () => {
    expect(numberIn(' 2,5 ')).toBe(2.5);
    for (const text of ['', '0', '-3', 'x', '1e999']) expect(numberIn(text)).toBeNull();
  });
});

describe('terms', () => {
  it('say what the whole inherits and because of what', async () => {
    show(<Terms build={build} acts={acts} />);
    const row = (await screen.findByText('May it be sold?')).closest('tr');
    expect(row?.textContent).toContain('no');
    expect(row?.textContent).toContain('because of post.stl');
    expect(screen.getByText('No legal advice.')).toBeTruthy();
  });

  it('are written down as a step with maker and proof', async () => {
    show(<Credit build={build} acts={acts} {...(broughtIn(build)[0] as { source: string; file: string })} />);
    fireEvent.change(await screen.findByLabelText('Who made it'), { target: { value: 'Withy Marlow' } });
    fireEvent.mouseDown(screen.getAllByRole('combobox', { name: 'Under which terms' })[0] as HTMLElement);
    fireEvent.click(screen.getByRole('option', { name: 'CC BY 4.0' }));
    fireEvent.change(screen.getByLabelText('Evidence, in words'), { target: { value: 'a mail' } });
    fireEvent.click(screen.getAllByRole('button', { name: 'Write it down' })[0] as HTMLElement);
    expect(addStep).toHaveBeenCalledWith(
      'credited post.stl',
      expect.objectContaining({
        kind: 'credit',
        source: 's',
        maker: 'Withy Marlow',
        terms: 'cc-by-4.0',
        own: null,
        proof: 'a mail',
      }),
    );
  });

  it('take out what is depicted by the id of its sentence', async () => {
    show(<Terms build={build} acts={acts} />);
    fireEvent.click(await screen.findByText('take out'));
    expect(removeStep).toHaveBeenCalledWith(7);
  });
});

describe('a size worked out', () => {
  it('is asked for once the number is one, and shows working, cost and what becomes thin', async () => {
    show(<Ways picking={picking} page={page} build={build} acts={acts} setups={[setup]} setup={setup} />);
    const field = screen.getByLabelText('From the ground to the top, mm');
    fireEvent.change(field, { target: { value: '-60' } });
    expect(sent).toEqual([]);
    fireEvent.change(field, { target: { value: '60' } });
    const status = await screen.findByRole('status');
    expect(sent.at(-1)).toEqual({
      path: '/api/figures/{number}/size',
      body: { way: { way: 'height', height: 60 } },
    });
    for (const told of ['60 mm / 30 mm', '20.0 ml for 2.5', '3 places too thin, 1 of them', 'does not fit'])
      expect(status.textContent).toContain(told);
    fireEvent.click(screen.getByRole('button', { name: 'Make it 60.0 mm tall' }));
    await waitFor(() =>
      expect(setEdition).toHaveBeenCalledWith({ ...page.edition, height: 60, factor: null }, ''),
    );
  });
});
