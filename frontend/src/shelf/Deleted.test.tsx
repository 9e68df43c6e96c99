// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { ShelfFigure } from '../app/client';
import { DeleteFigure, ShelfFoot } from './Deleted';

const GONE = [{ id: 4, name: 'Toll keeper', deleted: '2026-11-03T10:00:00Z', gone: '2026-12-03T10:00:00Z' }];
let sent: string[];
let answers: Record<string, unknown>;
let refuses = '';

vi.mock('../app/client', async (original) => ({
  ...(await original<object>()),
  api: Object.fromEntries(
    ['GET', 'POST', 'PUT', 'DELETE'].map((method) => [
      method,
      (path: string, asked: object = {}) => {
        if (method !== 'GET') sent.push(`${method} ${path} ${JSON.stringify(asked)}`);
        return Promise.resolve(
          method !== 'GET' && refuses
            ? { error: { detail: refuses }, response: { ok: false } }
            : { data: answers[path], response: { ok: true } },
        );
      },
    ]),
  ),
}));

const show = (inside: React.ReactNode) =>
  render(<QueryClientProvider client={new QueryClient()}>{inside}</QueryClientProvider>);

beforeEach(() => {
  sent = [];
  refuses = '';
  answers = {
    '/api/shelf/deleted': GONE,
    '/api/disk': { taken_gb: 3.21, budget_gb: 20 },
    '/api/figures/{number}': GONE,
    '/api/figures/{number}/put-back': [],
  };
});
afterEach(cleanup);

it('asks once before it deletes, and says how long it can be put back', async () => {
  const close = vi.fn();
  show(<DeleteFigure figure={{ id: 4, name: 'Toll keeper' } as ShelfFigure} close={close} />);
  expect(sent).toEqual([]);
  expect(screen.getByRole('dialog').textContent).toContain('thirty days');
  fireEvent.click(screen.getByRole('button', { name: 'keep it' }));
  expect(close).toHaveBeenCalledOnce();
  expect(sent).toEqual([]);
  fireEvent.click(await screen.findByRole('button', { name: 'Delete it' }));
  await vi.waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toContain('DELETE /api/figures/{number}');
});

it('puts a figure back, and tells why where it cannot', async () => {
  refuses = 'That figure was deleted too long ago to be put back.';
  show(<ShelfFoot />);
  expect(await screen.findByText(/3 December 2026/)).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'Put it back' }));
  expect((await screen.findByRole('alert')).textContent).toBe(refuses);
  refuses = '';
  fireEvent.click(screen.getByRole('button', { name: 'Put it back' }));
  await vi.waitFor(() => expect(screen.queryByText(/was deleted/)).toBeNull());
});

it('shows what the disk holds and takes another budget', async () => {
  show(<ShelfFoot />);
  expect((await screen.findByText(/Figures and results take 3.2 of at most/)).textContent).toContain('GB');
  fireEvent.click(screen.getByRole('button', { name: /Most that they may take/ }));
  const field = screen.getByRole('textbox');
  fireEvent.change(field, { target: { value: '7,5' } });
  fireEvent.keyDown(field, { key: 'Enter' });
  await vi.waitFor(() => expect(sent[0]).toContain('{"body":{"budget_gb":7.5}}'));
});
