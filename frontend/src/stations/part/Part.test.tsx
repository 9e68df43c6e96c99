// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, PartRecord } from '../../app/client';
import type { Pick } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { WholeStation } from '../../testing/wholeStation';
import { along, movedInOrder, normalOf, type JointRow } from './part';
import { station } from './station';

const acts = { addStep: vi.fn(), setFields: vi.fn(), stale: false, busy: false };
const ask = vi.fn();
const setPulled = vi.fn();
const showBox = vi.fn();
const pick = (point: [number, number, number]): Pick => ({ point, normal: [0, 0, 1], view: [0, 0, 1] });

const part = (name: string, called: string): PartRecord =>
  ({
    facts: {
      part: name,
      called,
      factor: 2,
      low_mm: [0, 0, 10],
      size_mm: [20, 30, 40],
      volume_mm3: 2500,
      shells: 2,
    },
    source: 'abc',
    fits: ['Lantern 6'],
  }) as unknown as PartRecord;

const joint = (over: Partial<JointRow> = {}): JointRow =>
  ({
    cut: 4,
    parts: ['f.4-upper', 'f.4-lower'],
    area_mm2: 214,
    keys: 2,
    gap_mm: 0.08,
    overlap_mm3: 0,
    ways_round: 1,
    opens_N: 31.4,
    ...over,
  }) as JointRow;

function shown(joints: JointRow[], blocked: object[] = []) {
  const parts = joints.length
    ? [part('f.4-upper', 'Hood'), part('f.4-lower', 'lower figure')]
    : [part('f', 'figure')];
  const assembly = joints.length
    ? {
        joints,
        first: 'f.4-lower',
        order: blocked.length
          ? []
          : [
              {
                parts: ['f.4-upper'],
                way: [0, 0, -1],
                joints: [0],
                glue: 'Two-part glue',
                minutes: 45,
                sanding_minutes: 3.5,
              },
            ],
        blocked,
        apart: {},
      }
    : {};
  const build = { key: 'k', parts, steps: [], inserts: [], assembly } as unknown as BuildRecord;
  const sheet = {
    ...{ build, part: parts[0], acts, busy: false, picking: { ask }, pulled: 1, setPulled, showBox },
    setup: { printer: { volume: [132, 74, 165], edge: 1 } },
    drawPart: vi.fn(),
  } as unknown as Sheet;
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { enabled: false } } })}>
      <WholeStation station={station} sheet={sheet} />
    </QueryClientProvider>,
  );
  return build;
}

beforeEach(() => vi.clearAllMocks());
afterEach(cleanup);

describe('a cut', () => {
  it('is made as many print mm up as was said, in figure mm from the origin', () => {
    shown([]);
    fireEvent.change(screen.getByRole('textbox', { name: 'mm up, of 40.0' }), { target: { value: '22' } });
    fireEvent.click(screen.getByRole('button', { name: 'Cut it' }));
    expect(acts.addStep).toHaveBeenCalledExactlyOnceWith('cut in two', {
      kind: 'cut',
      scope: null,
      normal: [0, 0, 1],
      offset: 16,
      near: null,
    });
  });

  it('is not made before it is said where', () => {
    shown([]);
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Cut it' }).disabled).toBe(true);
  });

  it('takes its place from a click, in mm of the print', () => {
    shown([]);
    fireEvent.click(screen.getByRole('button', { name: 'Click it on the chart' }));
    const asked = ask.mock.calls[0]?.[0] as { count: number; then: (picks: Pick[]) => void };
    expect(asked.count).toBe(1);
    asked.then([pick([1, 2, 15])]);
    return vi.waitFor(() =>
      expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'mm up, of 40.0' }).value).toBe('20.0'),
    );
  });

  it('lies square to the way between two places of a limb', () => {
    const picks = [pick([1, 0, 0]), pick([1, 3, 4])];
    expect(normalOf('limb', picks)).toEqual([0, 0.6, 0.8]);
    expect(normalOf('limb', [picks[0] as Pick])).toBeNull();
    expect(normalOf('limb', [pick([1, 0, 0]), pick([1, 0, 0])])).toBeNull();
    expect(along([0, 0.6, 0.8], [9, 5, 5])).toBeCloseTo(7);
  });
});

describe('a joint', () => {
  it('is told with what its keys leave, how they go in and what opens it', () => {
    shown([joint()]);
    const rows = screen.getAllByRole('row').map((row) => row.textContent);
    expect(rows).toContain('Hood and lower figure21420.08one31.4');
    expect(rows).toContain('2Hood from aboveTwo-part glue, 45 min3.5sooner later');
    expect(screen.getByText(/one way round 1 of 1/)).toBeTruthy();
  });

  it('says where nothing is known, and what turns', () => {
    shown([joint({ ways_round: null, opens_N: null, gap_mm: null })]);
    const rows = screen.getAllByRole('row').map((row) => row.textContent);
    expect(rows).toContain('Hood and lower figure2142–turnsnot known');
  });

  it('gets keys as they were asked for', () => {
    shown([joint({ keys: 0 })]);
    fireEvent.change(screen.getByRole('textbox', { name: 'Keys; empty for as many as fit' }), {
      target: { value: '3' },
    });
    fireEvent.click(screen.getByRole('button', { name: 'Set the keys' }));
    expect(acts.addStep.mock.calls[0]?.[1]).toMatchObject({
      kind: 'key',
      cut: 4,
      between: ['f.4-upper', 'f.4-lower'],
      joins: 'peg',
      shape: 'flat-sided',
      fit: 'glued',
      painted: false,
      number: 3,
      size: null,
    });
  });
});

describe('the order', () => {
  it('says what is blocked, and how far it is free', () => {
    shown([joint()], [{ part: 'f.4-upper', free_mm: 3.1 }]);
    const rows = screen.getAllByRole('row').map((row) => row.textContent);
    expect(rows).toContain('–Hood: blocked3.1 mm free');
  });

  it('puts a part sooner, and no part before the first', () => {
    const build = shown([joint()]);
    expect(movedInOrder(build, 'f.4-upper', -1)).toEqual({
      kind: 'assembly-order',
      order: ['f.4-upper', 'f.4-lower'],
    });
    expect(movedInOrder(build, 'f.4-upper', 1)).toBeNull();
    expect(movedInOrder(build, 'gone', 1)).toBeNull();
  });
});

describe('boxes', () => {
  it('begin as large as the printer’s room, and are shown in figure mm', () => {
    shown([]);
    fireEvent.click(screen.getByRole('button', { name: 'Show the first box' }));
    expect(showBox).toHaveBeenCalledExactlyOnceWith([
      [0, 0, 5],
      [65, 36, 87.5],
    ]);
    fireEvent.click(screen.getByRole('button', { name: 'Cut it by boxes' }));
    expect(acts.addStep.mock.calls[0]?.[1]).toMatchObject({
      kind: 'cut-boxes',
      size: [130, 72, 165],
      offset: [0, 0, 0],
    });
  });
});

it('a part gets a name that is kept', () => {
  shown([joint()]);
  fireEvent.change(screen.getByRole('textbox', { name: /What the Hood is called/ }), {
    target: { value: ' Cowl ' },
  });
  fireEvent.click(screen.getByRole('button', { name: 'Call it that' }));
  expect(acts.addStep).toHaveBeenCalledExactlyOnceWith('called a part Cowl', {
    kind: 'name-part',
    scope: 'f.4-upper',
    title: 'Cowl',
  });
});

it('a place is kept in one piece, its radius in mm of the print', async () => {
  shown([]);
  fireEvent.change(screen.getByRole('textbox', { name: /What stays whole/ }), {
    target: { value: ' face ' },
  });
  fireEvent.change(screen.getByRole('textbox', { name: /Within so many mm/ }), { target: { value: '5' } });
  const done = screen.getByRole<HTMLButtonElement>('button', { name: 'Keep it whole' });
  expect(done.disabled).toBe(true);
  fireEvent.click(screen.getByRole('button', { name: 'Click its middle on the chart' }));
  const asked = ask.mock.calls[0]?.[0] as { then: (picks: Pick[]) => void };
  asked.then([pick([1, 2, 15])]);
  await vi.waitFor(() => expect(done.disabled).toBe(false));
  fireEvent.click(done);
  expect(acts.addStep).toHaveBeenCalledExactlyOnceWith(
    'keeps face whole',
    expect.objectContaining({ kind: 'keep-whole', name: 'face', radius: 2.5 }),
  );
});
