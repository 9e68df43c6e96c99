// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import type { ReactNode } from 'react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { Sent } from '../testing/answering';
import { BeginPlate } from './BeginPlate';
import type { Drawn } from './handPlaced';
import { WinTime } from './WinTime';

const sent: Sent[] = [];
let answers: Record<string, unknown> = {};
let ends: object = {};
let refuses = '';

vi.mock('../app/client', async (original) => {
  const { answering: by } = await import('../testing/answering');
  return {
    ...(await original<object>()),
    api: by((request) => {
      sent.push(request);
      return { data: answers[request.path] ?? {}, response: new Response() };
    }),
    dataOf: async (asked: Promise<{ data: unknown }>) => {
      if (refuses) throw new Error(refuses);
      return (await asked).data;
    },
  };
});
vi.mock('../app/jobs', async (original) => ({
  ...(await original<object>()),
  ended: () => Promise.resolve(ends),
}));

const client = new QueryClient();
const show = (inside: ReactNode) =>
  render(<QueryClientProvider client={client}>{inside}</QueryClientProvider>);
const won = (says: string, over: object = {}) => ({
  says,
  roughly: '',
  unfit: 0,
  printing_s: 0,
  hands_min: 0,
  ready: null,
  sooner_min: 0,
  ...over,
});

beforeEach(() => {
  sent.length = 0;
  refuses = '';
  answers = { '/api/plan/won': { id: 1, state: 'running' } };
  ends = { state: 'done', made: { won: 'w' }, error: '' };
});
afterEach(cleanup);

it('tells what would win time, lose it, win nothing or fit nowhere', async () => {
  answers['/api/plans/{name}/won'] = {
    tried: [
      won('hollow', { roughly: 'by area and volume', printing_s: 7_200, hands_min: -10 }),
      won('coarser', { printing_s: 30, ready: '2026-12-08T11:00:00', sooner_min: 90 }),
      won('finer', { ready: '2026-12-09T11:00:00', sooner_min: -1_440 }),
      won('smaller', { printing_s: 20, ready: '2026-12-08T11:00:00', sooner_min: 5 }),
      won('on the small printer', { unfit: 2, printing_s: 9_000 }),
    ],
  };
  show(<WinTime />);
  fireEvent.click(screen.getByRole('button', { name: 'Try what would win time' }));
  const told = (await screen.findAllByRole('listitem')).map((one) => one.textContent);
  expect(told[0]).toBe('hollow (by area and volume)2 h less printing, 10 min more hands');
  expect(told[1]).toMatch(/^coarserready .*, 1 h 30 min sooner$/);
  expect(told[2]).toMatch(/^finerready .*later$/);
  expect(told[3]).toBe('smallerwins nothing');
  expect(told[4]).toBe('on the small printer2 would fit no plate');
});

it('says that trying was stopped, and can be asked again', async () => {
  ends = { state: 'cancelled', made: {}, error: '' };
  show(<WinTime />);
  fireEvent.click(screen.getByRole('button', { name: 'Try what would win time' }));
  expect((await screen.findByRole('alert')).textContent).toBe('Trying was stopped; the plan is as it was.');
  expect(screen.getByRole('button', { name: 'Try what would win time' })).toHaveProperty('disabled', false);
});

const plate = {
  ready: ['plate clean', 'film clear'],
  lying: [
    { figure: 1, edition: 'e1', part: 'body', layers: 'a', x: 5, y: 6, turn: 30, tall: 9 },
    { figure: 1, edition: 'e1', part: 'hood' },
    { figure: 1, edition: 'e1', part: 'body' },
    { figure: 2, edition: 'e1', part: 'body' },
  ],
} as unknown as Drawn;

it('begins what lies on a plate, each part as often as it lies there, with what was ticked', async () => {
  answers['/api/plan/begun'] = { revision: 9 };
  show(<BeginPlate plate={plate} />);
  expect(sent).toEqual([]);
  fireEvent.click(screen.getByRole('button', { name: 'Begin this plate as a proof' }));
  fireEvent.click(screen.getByRole('checkbox', { name: 'film clear' }));
  fireEvent.click(screen.getByRole('button', { name: 'Begin it' }));
  await waitFor(() => expect(client.getQueryData(['plan'])).toEqual({ revision: 9 }));
  const { parts, ready, lying } = sent[0]?.body as {
    parts: { figure: number; part: string; count: number }[];
    ready: string[];
    lying: object[];
  };
  expect(parts.map(({ figure, part, count }) => [figure, part, count])).toEqual([
    [1, 'body', 2],
    [1, 'hood', 1],
    [2, 'body', 1],
  ]);
  expect(ready).toEqual(['film clear']);
  expect(lying).toHaveLength(4);
  // It is printed as it lies.
  expect(lying[0]).toEqual({ figure: 1, edition: 'e1', part: 'body', layers: 'a', x: 5, y: 6, turn: 30 });
});

it('says why a plate was not begun', async () => {
  refuses = 'Imp is still being checked: begin when that is done.';
  show(<BeginPlate plate={plate} />);
  fireEvent.click(screen.getByRole('button', { name: 'Begin this plate as a proof' }));
  fireEvent.click(screen.getByRole('button', { name: 'Begin it' }));
  expect((await screen.findByRole('alert')).textContent).toBe(refuses);
});
