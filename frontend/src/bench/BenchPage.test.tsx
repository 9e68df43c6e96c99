// @vitest-environment jsdom

import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BenchView, ValueRow } from '../app/client';
import type { Sent } from '../testing/answering';
import BenchPage from './BenchPage';
import { rangeOf, readAs } from './ValueTable';

const row = (over: Partial<ValueRow>): ValueRow => ({
  path: 'density',
  label: 'Density',
  group: '',
  unit: 'g/cm³',
  kind: 'number',
  value: 1.15,
  low: 0,
  high: 25,
  above: true,
  optional: false,
  choices: {},
  origin: { kind: 'bench default', since: null, proofs: [] },
  shipped: 1.15,
  ...over,
});

const bench = (revision: number, values: ValueRow[]): BenchView => ({
  revision,
  says: '',
  can_undo: revision > 0,
  can_redo: false,
  lists: [
    {
      place: 'materials',
      title: 'Materials',
      things: [
        { id: 'grey', name: 'Grey resin', retired: false, shipped: true, values },
        { id: 'old', name: 'Old resin', retired: true, shipped: false, values: [] },
      ],
    },
  ],
});

let sent: Sent[];
let refusal: object | null;
let answer: { data?: unknown; error?: unknown; response: object };

vi.mock('../app/client', async (original) => ({
  ...(await original<object>()),
  api: (await import('../testing/answering')).answering((one) => {
    sent.push(one);
    return one.method === 'PUT' && refusal ? refusal : answer;
  }),
}));

beforeEach(() => {
  sent = [];
  refusal = null;
  answer = { data: bench(0, [row({})]), response: { ok: true } };
});
afterEach(() => {
  cleanup();
});

const show = () =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter>
        <BenchPage />
      </MemoryRouter>
    </QueryClientProvider>,
  );

async function typed(text: string) {
  show();
  const field = await screen.findByLabelText('Density, g/cm³');
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key: 'Enter' });
  return field;
}

describe('the bench', () => {
  it('keeps a value that is typed, with what was seen of it', async () => {
    await typed('1,2');
    await waitFor(() => expect(sent.at(-1)?.method).toBe('PUT'));
    expect(sent.find(({ method }) => method === 'PUT')).toEqual({
      method: 'PUT',
      path: '/api/bench/value',
      seen: 0,
      body: { place: 'materials', thing: 'grey', path: 'density', value: 1.2 },
    });
  });

  it.each(['0', '26', '-1', 'heavy', ''])('does not send %j, and says what it may be', async (text) => {
    const field = await typed(text);
    expect(field.getAttribute('aria-invalid')).toBe('true');
    expect(screen.getByRole('alert').textContent).toBeTruthy();
    expect(sent.every(({ method }) => method === 'GET')).toBe(true);
    fireEvent.keyDown(field, { key: 'Escape' });
    expect((field as HTMLInputElement).value).toBe('1.15');
  });

  it('offers the default of what is one’s own, and of nothing else', async () => {
    const own = row({ value: 1.3, origin: { kind: 'user', since: '2026-11-29', proofs: [] } });
    answer.data = bench(2, [own, row({ path: 'x', label: 'Shrink' })]);
    show();
    fireEvent.click(await screen.findByRole('button', { name: 'Density back to 1.15, the default' }));
    expect(screen.getByText('yours since 29 November 2026')).toBeTruthy();
    await waitFor(() => expect(sent.at(-1)?.path).toBe('/api/bench/default'));
    expect(screen.queryByRole('button', { name: /Shrink back/ })).toBeNull();
  });

  it('tells why a change was refused, and shows what is there', async () => {
    show();
    const field = await screen.findByLabelText('Density, g/cm³');
    refusal = { error: { detail: 'The bench was changed elsewhere.' }, response: { ok: false } };
    fireEvent.change(field, { target: { value: '1.2' } });
    fireEvent.keyDown(field, { key: 'Enter' });
    expect((await screen.findByRole('alert')).textContent).toContain('changed elsewhere');
  });

  it('is turned by the keys, and what is retired is still there', async () => {
    show();
    await screen.findByRole('heading', { name: 'Grey resin' });
    fireEvent.keyDown(document.body, { key: 'j' });
    expect(await screen.findByRole('heading', { name: 'Old resin' })).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Offer it again' })).toBeTruthy();
    fireEvent.keyDown(document.body, { key: 'k' });
    expect(await screen.findByRole('button', { name: 'Retire it' })).toBeTruthy();
  });
});

describe('a text as a value', () => {
  it.each([
    [row({ kind: 'size', value: [1, 2, 3] }), '132 x 74 × 165', { ok: true, value: [132, 74, 165] }],
    [
      row({ kind: 'size', value: [1, 2, 3] }),
      '132 74',
      { ok: false, says: 'three lengths, as 132 x 74 x 165' },
    ],
    [row({ kind: 'size', value: [1, 2, 3] }), '132 x 0 x 3', { ok: false, says: 'lengths above 0' }],
    [row({ optional: true }), ' ', { ok: true, value: null }],
    [row({ kind: 'whole number', above: false }), '2.5', { ok: false, says: 'a whole number' }],
    [row({ above: false }), '0', { ok: true, value: 0 }],
    [row({ kind: 'text' }), ' grey ', { ok: true, value: 'grey' }],
  ])('%#', (of, text, read) => expect(readAs(of, text)).toEqual(read));

  it('is told its range in words', () => {
    expect(rangeOf(row({}))).toBe('above 0 to 25');
    expect(rangeOf(row({ above: false, optional: true }))).toBe('0 to 25, may be left empty');
    expect(rangeOf(row({ choices: { wire: 'wire' } }))).toBe('');
  });
});
