// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, render, screen } from '@testing-library/react';
import { Profiler, type ReactNode } from 'react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import { api, type JobView } from './client';
import { JobLine } from './JobLine';
import { ended, useEvents, useJobTurn } from './jobs';

class FakeSource extends EventTarget {
  static last: FakeSource;
  closed = false;
  constructor(readonly url: string) {
    super();
    FakeSource.last = this;
  }
  close() {
    this.closed = true;
  }
  say(kind: string, data: unknown) {
    const text = typeof data === 'string' ? data : JSON.stringify(data);
    this.dispatchEvent(new MessageEvent(kind, { data: text }));
  }
}

let number = 0;
const job = (over: Partial<JobView> = {}): JobView => ({
  id: number,
  kind: 'build',
  says: 'Checking the Ferrywoman',
  state: 'running',
  share: 0.4,
  doing: 'gauge: walls',
  seconds_left: 12,
  error: '',
  figures: [3],
  seen: [],
  made: {},
  ...over,
});

let client: QueryClient;
function Listener({ children }: { children?: ReactNode }) {
  useEvents();
  return children;
}
const show = (inside?: ReactNode) =>
  render(
    <QueryClientProvider client={client}>
      <Listener>{inside}</Listener>
    </QueryClientProvider>,
  );

beforeEach(() => {
  number += 1;
  client = new QueryClient();
  vi.stubGlobal('EventSource', FakeSource);
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe('a job', () => {
  it('is told as it goes and falls silent when it is over', () => {
    show(<JobLine job={job()} />);
    expect(screen.getByRole('status').textContent).toContain('gauge: walls, about 12 s left');
    act(() => FakeSource.last.say('job', job({ doing: 'layers', share: 0.8, seconds_left: 95 })));
    expect(screen.getByRole('status').textContent).toContain('layers, about 2 min left');
    expect(screen.getByRole('progressbar').getAttribute('value')).toBe('0.8');
    act(() => FakeSource.last.say('job', job({ state: 'done', share: 1 })));
    expect(screen.queryByRole('status')).toBeNull();
  });

  it('draws nothing anew but its own line while words of its progress come', () => {
    const drawn = vi.fn();
    function Sheet() {
      const turn = useJobTurn(page);
      return <p>{turn?.seen.join()}</p>;
    }
    const page = job();
    show(
      <>
        <Profiler id="sheet" onRender={drawn}>
          <Sheet />
        </Profiler>
        <JobLine job={page} />
      </>,
    );
    act(() => FakeSource.last.say('job', job({ share: 0.5 })));
    const before = drawn.mock.calls.length;
    for (let word = 0; word < 50; word += 1)
      act(() => FakeSource.last.say('job', job({ share: 0.5 + word / 100, doing: `layers ${word}` })));
    expect(drawn).toHaveBeenCalledTimes(before);
    expect(screen.getByRole('status').textContent).toContain('layers 49');
    act(() => FakeSource.last.say('job', job({ share: 0.99, seen: ['mend'] })));
    expect(drawn).toHaveBeenCalledTimes(before + 1);
    expect(screen.getByRole('paragraph').textContent).toBe('mend');
  });

  it('counts the time down between words', () => {
    vi.useFakeTimers();
    show(<JobLine job={job({ seconds_left: 12 })} />);
    act(() => void vi.advanceTimersByTime(5000));
    expect(screen.getByRole('status').textContent).toContain('about 7 s left');
    act(() => void vi.advanceTimersByTime(9000));
    expect(screen.getByRole('status').textContent).toContain('longer than expected');
    vi.useRealTimers();
  });

  it('is not taken for another one', () => {
    show(<JobLine job={job()} />);
    act(() => FakeSource.last.say('job', job({ id: 9999, state: 'done' })));
    expect(screen.getByRole('status')).toBeTruthy();
  });

  it.each(['done', 'failed', 'cancelled'] as const)('can be waited for until it is %s', async (state) => {
    show();
    const waiting = ended(job());
    act(() => FakeSource.last.say('job', job({ share: 0.9 })));
    act(() => FakeSource.last.say('job', job({ state, made: { release: 7 } })));
    expect(await waiting).toMatchObject({ state, made: { release: 7 } });
  });

  it('that is over already keeps nobody waiting', async () => {
    expect((await ended(job({ state: 'failed', error: 'It broke.' }))).error).toBe('It broke.');
  });

  it('that a server started anew no longer knows is over, one it knows is set right', async () => {
    show();
    const [lost, kept] = [ended(job()), ended(job({ id: number + 5000 }))];
    const known = [job({ id: number + 5000, state: 'done' })];
    vi.spyOn(api, 'GET').mockResolvedValue({ data: known, response: new Response() } as never);
    act(() => FakeSource.last.say('hello', 'anew'));
    expect((await lost).error).toContain('started again');
    expect((await kept).state).toBe('done');
  });

  it('has its own figure and the shelf looked at again when it is over, and nothing before', () => {
    show();
    const looked = vi.spyOn(client, 'invalidateQueries');
    act(() => FakeSource.last.say('job', job()));
    expect(looked).not.toHaveBeenCalled();
    act(() => FakeSource.last.say('job', job({ state: 'done' })));
    expect(looked.mock.calls.map(([what]) => what?.queryKey)).toEqual([['shelf'], ['figure', 3]]);
  });
});

describe('the stream of events', () => {
  it('makes up for what was missed when it is taken up again, and ends with the page', () => {
    const { unmount } = show();
    const looked = vi.spyOn(client, 'invalidateQueries');
    act(() => FakeSource.last.say('hello', 'again'));
    expect(looked).not.toHaveBeenCalled();
    act(() => FakeSource.last.say('hello', 'anew'));
    expect(looked).toHaveBeenCalledExactlyOnceWith();
    unmount();
    expect(FakeSource.last.closed).toBe(true);
  });
});

describe('a trial', () => {
  const trial = (id: number) => {
    const left = vi.spyOn(api, 'POST').mockResolvedValue({ data: {}, response: new Response() } as never);
    const control = new AbortController();
    const over = ended(job({ id }), control.signal);
    return { left, control, over };
  };

  it('is left when nobody looks at it any more', async () => {
    const { left, control, over } = trial(901);
    control.abort();
    await expect(over).rejects.toThrow('left');
    expect(left).toHaveBeenCalledWith(
      '/api/jobs/{number}/leave',
      expect.objectContaining({ keepalive: true }),
    );
  });

  it('is left when the page goes, but not one that is over', async () => {
    show();
    const { left, over } = trial(902);
    act(() => FakeSource.last.say('job', job({ id: 902, state: 'done' })));
    await over;
    window.dispatchEvent(new Event('pagehide'));
    expect(left).not.toHaveBeenCalled();
    const again = trial(903);
    window.dispatchEvent(new Event('pagehide'));
    expect(again.left).toHaveBeenCalledTimes(1);
  });
});
