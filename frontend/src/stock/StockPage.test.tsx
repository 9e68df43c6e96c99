// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { MemoryRouter } from 'react-router';

import type { StockView } from '../app/client';
import type { Sent } from '../testing/answering';
import StockPage from './StockPage';

const grey = { key: 'material:grey', name: 'Grey resin', unit: 'ml' as const, price: 0.04 };
const magnet = { key: 'bought:magnet', name: 'Magnet', unit: 'pieces' as const, price: 0.2 };
const line = (number: number | null, good: string, kind: 'counted' | 'used', amount: number, says = '') => ({
  number,
  entry: { good, day: '2026-12-01', kind, amount, says },
});
const stock: StockView = {
  standing: [
    { good: grey, there: -4, counted: '2026-12-01', worth: 0 },
    { good: magnet, there: null, counted: null, worth: 0 },
  ],
  lines: [line(null, grey.key, 'used', -24, 'proof 3'), line(7, grey.key, 'counted', 20)],
};

const sent: Sent[] = [];
let numbers: number[] = [8];

vi.mock('../app/client', async (original) => ({
  ...(await original<object>()),
  api: (await import('../testing/answering')).answering((one) => {
    if (one.method !== 'GET') sent.push(one);
    const entered = one.method === 'POST' && !one.path.endsWith('put-back');
    return { data: entered ? { numbers, stock } : stock, response: { ok: true } };
  }),
}));

beforeEach(() => {
  sent.length = 0;
  numbers = [8];
  render(
    <MemoryRouter>
      <QueryClientProvider client={new QueryClient()}>
        <StockPage />
      </QueryClientProvider>
    </MemoryRouter>,
  );
});
afterEach(cleanup);

it('says what is there, what nobody counted, and how each sum came to be', async () => {
  const there = await screen.findByRole('region', { name: 'What is there' });
  expect((await within(there).findByRole('row', { name: /Grey resin/ })).textContent).toContain('-4.0 ml');
  expect(within(there).getByRole('row', { name: /Magnet/ }).textContent).toContain('not counted yet');
  const ledger = screen.getByRole('region', { name: 'The ledger' });
  expect(within(ledger).getByText('proof 3').closest('tr')?.textContent).toContain('−24.0 ml');
  // What follows from a print is not struck out here.
  expect(within(ledger).getAllByRole('button', { name: /^Strike out/ })).toHaveLength(1);
  fireEvent.click(within(there).getByRole('button', { name: 'Magnet' }));
  expect(screen.getByRole('heading', { name: 'Ledger of Magnet' })).toBeTruthy();
  expect(screen.getByText(/Nothing yet: count what is there first/)).toBeTruthy();
});

it('enters a line for what is chosen, and undoes it', async () => {
  fireEvent.click(await screen.findByRole('button', { name: 'Grey resin' }));
  const enter = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Enter the line' });
  expect(enter().disabled).toBe(true);
  fireEvent.change(screen.getByLabelText('How much, ml'), { target: { value: '-3' } });
  expect(enter().disabled).toBe(true);
  fireEvent.change(screen.getByLabelText('How much, ml'), { target: { value: '870,5' } });
  fireEvent.change(screen.getByLabelText('Note'), { target: { value: 'by weight' } });
  fireEvent.click(enter());
  await screen.findByText(/1 line entered/);
  expect(sent[0]?.body).toMatchObject({ good: grey.key, kind: 'counted', amount: 870.5, says: 'by weight' });
  fireEvent.click(screen.getByRole('button', { name: 'undo' }));
  await waitFor(() => expect(sent.at(-1)).toMatchObject({ method: 'DELETE', path: '/api/stock/{line}' }));
  fireEvent.click(await screen.findByRole('button', { name: 'put back what was struck out' }));
  await waitFor(() => expect(sent.at(-1)?.path).toBe('/api/stock/{line}/put-back'));
});

it('says of a ledger that is read again that nothing of it is new', async () => {
  numbers = [];
  const file = new File(['day,good,what\n'], 'ledger.csv');
  fireEvent.change(await screen.findByLabelText('Read a ledger, CSV: choose its file'), {
    target: { files: [file] },
  });
  await screen.findByText(/Every line of it is there already/);
  expect(sent[0]).toMatchObject({ method: 'POST', path: '/api/stock/ledger.csv' });
});
