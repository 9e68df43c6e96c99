// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';

import { api, type Finding, type JobView, type Station, type StationView } from '../app/client';
import { SoFar, useChecking } from './SoFar';

const stations = (['mend', 'gauge', 'hollow', 'layers'] as const).map((station): StationView => ({
  station,
  checked: station !== 'hollow',
}));
const job = (over: Partial<JobView>) =>
  ({ id: 7, kind: 'build', state: 'running', seen: [], ...over }) as JobView;
const beak = { severity: 'stop', title: 'Beak: 0.31 mm' } as Finding;

let client: QueryClient;
function Sheet({ here, now }: { here: Station; now: JobView }) {
  const checking = useChecking(now, stations);
  return checking ? <SoFar here={here} checking={checking} /> : <p>done</p>;
}
const sheet = (here: Station, now: JobView) => (
  <QueryClientProvider client={client}>
    <Sheet {...{ here, now }} />
  </QueryClientProvider>
);
const seen = (...found: [Station, Finding[]][]) => {
  const answer = found.map(([station, findings]) => ({ station, findings, unseen: [] }));
  return vi.spyOn(api, 'GET').mockResolvedValue({ data: answer, response: new Response() } as never);
};

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it('shows what was found at the station that is looked at as soon as that is done, and what is to come', async () => {
  client = new QueryClient();
  const asked = seen(['gauge', [beak]]);
  const { rerender } = render(sheet('gauge', job({})));
  expect(screen.getByText(/Still to come: Mend, Gauge, Layers\./)).toBeTruthy();
  expect(asked).not.toHaveBeenCalled();
  rerender(sheet('gauge', job({ seen: ['gauge'] })));
  await waitFor(() => expect(screen.getByRole('heading').textContent).toBe('Gauge: 1 finding'));
  expect(screen.getByText('Beak: 0.31 mm')).toBeTruthy();
  expect(screen.getByText(/Still to come: Mend, Layers\./)).toBeTruthy();
  // Of a station that is not done nothing is said yet: nothing found is something else.
  rerender(sheet('mend', job({ seen: ['gauge'] })));
  expect(screen.queryByRole('heading')).toBeNull();
});

it('asks again only when another station is done, and is over with the job', async () => {
  client = new QueryClient();
  const asked = seen(['gauge', []], ['mend', []]);
  const { rerender } = render(sheet('mend', job({ seen: ['gauge', 'mend'] })));
  await waitFor(() => expect(screen.getByRole('heading').textContent).toBe('Mend: nothing found'));
  rerender(sheet('mend', job({ seen: ['gauge', 'mend'], share: 0.7 })));
  expect(asked).toHaveBeenCalledTimes(1);
  rerender(sheet('mend', job({ seen: ['gauge', 'mend'], state: 'done' })));
  expect(screen.getByText('done')).toBeTruthy();
});
