// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';

import { PutBack, usePutBack } from './PutBack';

const does = vi.fn<(number: number) => Promise<unknown>>();
const seen = vi.fn(() => Promise.resolve());

function Shelf() {
  const back = usePutBack(does, seen);
  return (
    <>
      <button onClick={() => back.wentAway(3)}>put 3 away</button>
      <button onClick={() => back.wentAway(8)}>put 8 away</button>
      <PutBack back={back} what="the figure" />
    </>
  );
}

const press = (name: string) => fireEvent.click(screen.getByRole('button', { name }));

afterEach(() => {
  cleanup();
  vi.clearAllMocks();
});

it('puts back what was put away last, once, and has what is shown looked at again', async () => {
  does.mockResolvedValue(null);
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Shelf />
    </QueryClientProvider>,
  );
  expect(screen.queryByRole('button', { name: 'put back the figure' })).toBeNull();
  press('put 3 away');
  press('put 8 away');
  press('put back the figure');
  await waitFor(() => expect(screen.queryByRole('button', { name: 'put back the figure' })).toBeNull());
  expect(does.mock.calls.map(([number]) => number)).toEqual([8]);
  expect(seen).toHaveBeenCalledOnce();
});

it('says why it could not be put back, and can be tried again', async () => {
  does.mockRejectedValueOnce(new Error('The server cannot be reached.')).mockResolvedValueOnce(null);
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Shelf />
    </QueryClientProvider>,
  );
  press('put 3 away');
  press('put back the figure');
  expect((await screen.findByRole('alert')).textContent).toBe('The server cannot be reached.');
  press('put back the figure');
  await waitFor(() => expect(screen.queryByRole('button', { name: 'put back the figure' })).toBeNull());
  expect(does).toHaveBeenCalledTimes(2);
});
