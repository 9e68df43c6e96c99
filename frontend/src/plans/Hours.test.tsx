// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { PlanTold } from '../app/client';
import type { Sent } from '../testing/answering';
import { Hours } from './Hours';

const sent: Sent[] = [];
let rows: object[] = [];
let refuses = '';

vi.mock('../app/client', async (original) => {
  const { answering: by } = await import('../testing/answering');
  return {
    ...(await original<object>()),
    api: by((request) => {
      if (request.method !== 'GET') sent.push(request);
      const shelf = [
        { id: 1, name: 'Ferrywoman' },
        { id: 2, name: 'Bow otter' },
      ];
      return { data: request.path === '/api/shelf' ? shelf : rows, response: new Response() };
    }),
    dataOf: async (asked: Promise<{ data: unknown }>) => {
      const { data } = await asked;
      if (refuses && sent.length > 0) throw new Error(refuses);
      return data;
    },
  };
});

const entry = (number: number, figure: number, kind: string, minutes: number | null) => ({
  ...{ number, figure, kind, minutes, says: '', began: '2026-12-07T08:00:00Z' },
  figure_name: figure === 1 ? 'Ferrywoman' : 'Bow otter',
});

function shown(told: object | null = null) {
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Hours told={told as PlanTold | null} />
    </QueryClientProvider>,
  );
}
const choose = async (label: string, name: string) => {
  fireEvent.mouseDown(screen.getByRole('combobox', { name: label }));
  fireEvent.click(await screen.findByRole('option', { name }));
};
const minutes = (text: string) =>
  fireEvent.change(screen.getByLabelText('Minutes; empty to count them'), { target: { value: text } });
const button = (name: string | RegExp) => screen.getByRole<HTMLButtonElement>('button', { name });

beforeEach(() => {
  sent.length = 0;
  rows = [];
  refuses = '';
});
afterEach(cleanup);

it('counts from now on, or enters minutes that ended now, and takes nothing that is no number', async () => {
  shown();
  expect(await screen.findByText('Nothing yet.')).toBeTruthy();
  expect(button('Begin to count').disabled).toBe(true);
  await choose('Worked on', 'Bow otter');
  minutes('soon');
  expect(button('Begin to count').disabled).toBe(true);
  minutes('');
  fireEvent.click(button('Begin to count'));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({ path: '/api/hours/begun', body: { figure: 2, kind: 'design' } });

  await choose('What was done', 'Clean-up');
  minutes('1,5');
  const before = Date.now();
  fireEvent.click(button('Enter them'));
  await waitFor(() => expect(sent).toHaveLength(2));
  const { body } = sent[1] as { body: { began: string } };
  expect(body).toMatchObject({ figure: 2, kind: 'clean-up', minutes: 1.5 });
  const began = Date.parse(body.began) + 90_000;
  expect(began).toBeGreaterThanOrEqual(before);
  expect(began).toBeLessThanOrEqual(Date.now());
  // What was entered is not entered again by another click.
  const field = screen.getByLabelText<HTMLInputElement>('Minutes; empty to count them');
  await waitFor(() => expect(field.value).toBe(''));
});

it('adds up what was worked by figure and kind, beside what is planned of it', async () => {
  rows = [
    entry(1, 1, 'design', 90),
    entry(2, 2, 'painting', 30),
    entry(3, 1, 'design', 45),
    entry(4, 1, 'painting', null),
  ];
  const line = (figure: number, hands_min: number) => ({ figure, hands_min });
  shown({ sums: { lines: [line(1, 40), line(1, 20)] } });
  const table = within(await screen.findByRole('table'));
  const cells = table
    .getAllByRole('row')
    .slice(1)
    .map((row) => [...row.children].map((cell) => cell.textContent));
  expect(cells).toEqual([
    ['Bow otter', '', '', '30 min', ''],
    ['Ferrywoman', '2 h 15 min', '', '', '1 h'],
  ]);
  // What is still counted can be stopped, and says what it is.
  fireEvent.click(button('Stop: painting of Ferrywoman'));
  await waitFor(() => expect(sent[0]?.path).toBe('/api/hours/{entry}/stopped'));
});

it('strikes an entry out and puts it back', async () => {
  rows = [entry(7, 1, 'design', 90)];
  shown();
  fireEvent.click(await screen.findByText('Each entry'));
  expect(screen.queryByRole('button', { name: /put back/ })).toBeNull();
  fireEvent.click(screen.getByRole('button', { name: 'Strike out design of Ferrywoman', hidden: true }));
  await waitFor(() => expect(sent.map(({ method }) => method)).toEqual(['DELETE']));
  fireEvent.click(await screen.findByRole('button', { name: 'put back what was struck out' }));
  await waitFor(() => expect(sent[1]?.path).toBe('/api/hours/{entry}/put-back'));
  expect(screen.queryByRole('button', { name: /put back/ })).toBeNull();
});

it('says why nothing was entered, and keeps what was typed', async () => {
  shown();
  await screen.findByText('Nothing yet.');
  await choose('Worked on', 'Ferrywoman');
  minutes('45');
  refuses = 'Something else is counted already: stop that first.';
  fireEvent.click(button('Enter them'));
  expect((await screen.findByRole('alert')).textContent).toContain('stop that first');
  expect(screen.getByLabelText<HTMLInputElement>('Minutes; empty to count them').value).toBe('45');
});
