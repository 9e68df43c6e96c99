// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, PartRecord } from '../../app/client';
import type { Pick } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { TakesTable } from '../../figure/TakesTable';
import { WholeStation } from '../../testing/wholeStation';
import { openingsOf } from './hollow';
import { station } from './station';

const acts = {
  setSteps: vi.fn(),
  addStep: vi.fn(),
  setFields: vi.fn(),
  removeStep: vi.fn(),
  stale: false,
  busy: false,
};
const ask = vi.fn();
const pick: Pick = { point: [1, 2, 3], normal: [0, 0, 1], view: [0, 0, 1] };

const opening = (step: number, point: number[]) => ({
  step,
  point,
  way: [0, 0, 1],
  diameter: 2.5,
  wall: 2,
  plugged: false,
});
const space = (openings: number[], ml = 3.2) => ({
  millilitres: ml,
  place: [ml, 0, 0],
  openings,
  at_plate_end: openings.slice(0, 1),
  at_film_end: openings.slice(1),
  shut_by_plate: [],
  proposed: [],
});

function built(part: object, steps: object[] = [], parts = 1, inserts: object[] = []) {
  const one = {
    facts: { part: 'body', factor: 2 },
    source: 'abc',
    spaces: [],
    openings: [],
    left_ml: 0,
    ...part,
  } as unknown as PartRecord;
  const build = {
    parts: Array.from({ length: parts }, () => one),
    steps: steps.map((step) => ({ step: { on: true, scope: null, ...step } })),
    inserts,
  } as unknown as BuildRecord;
  return { build, part: one };
}

function shown(...given: Parameters<typeof built>) {
  const sheet = { ...built(...given), acts, busy: false, picking: { ask } } as unknown as Sheet;
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { enabled: false } } })}>
      <WholeStation station={station} sheet={sheet} />
    </QueryClientProvider>,
  );
}

beforeEach(() => vi.clearAllMocks());
afterEach(cleanup);

const HOLLOW = { kind: 'hollow', id: 4, wall: 2, narrowest: 2, regions: [] };
const DRAIN = { kind: 'drain', id: 5, places: [{ point: [9, 0, 0] }, { point: [0, 0, 9] }] };

describe('hollowing a part', () => {
  it('sets the wall and seeks openings in one change', () => {
    shown({});
    fireEvent.change(screen.getByRole('textbox', { name: 'Wall, mm' }), { target: { value: '1,5' } });
    fireEvent.click(screen.getByRole('button', { name: 'Hollow it' }));
    expect(acts.setSteps).toHaveBeenCalledExactlyOnceWith(
      'hollowed to 1.5 mm',
      { kind: 'hollow', values: { scope: null, wall: 1.5, narrowest: 2, on: true } },
      { kind: 'drain', values: { scope: null, places: [], diameter: 2, on: true } },
    );
  });

  it('keeps the openings that are there, and names the part where there are several', () => {
    shown({ openings: [opening(5, [9, 0, 0])], spaces: [space([0])] }, [HOLLOW, DRAIN], 2);
    fireEvent.click(screen.getByRole('button', { name: 'Hollow it' }));
    expect(acts.setSteps.mock.calls[0]?.slice(1)).toEqual([
      { kind: 'hollow', values: { scope: 'body', wall: 2, narrowest: 2, on: true } },
    ]);
  });

  it('is not done with a wall that is none', () => {
    shown({});
    fireEvent.change(screen.getByRole('textbox', { name: 'Wall, mm' }), { target: { value: 'thick' } });
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Hollow it' }).disabled).toBe(true);
  });

  it('can be decided against', () => {
    shown({});
    fireEvent.click(screen.getByRole('button', { name: 'Leave it solid' }));
    expect(acts.addStep).toHaveBeenCalledExactlyOnceWith('left solid', { kind: 'leave-solid', scope: null });
  });
});

describe('what is inside', () => {
  it('says which spaces are sealed and what stays in them', () => {
    shown({ spaces: [space([0, 1]), space([], 0.04)], left_ml: 0.5, openings: [] }, [HOLLOW]);
    expect(screen.getByRole('heading', { level: 2 }).textContent).toBe(
      '2 spaces of 3.24 ml, 1 of them sealed',
    );
    expect(screen.getByText('0.50 ml of resin stay in it as it hangs.')).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'Fill the small space' }));
    expect(acts.addStep).toHaveBeenCalledExactlyOnceWith('small spaces filled', {
      kind: 'fill-spaces',
      most_ml: 0.05,
    });
  });

  it('moves one opening of a sentence and leaves the others', () => {
    shown({ openings: [opening(5, [0, 0, 9]), opening(5, [9, 0, 0])], spaces: [space([0, 1])] }, [
      HOLLOW,
      DRAIN,
    ]);
    fireEvent.click(screen.getByRole('button', { name: 'move opening 1' }));
    (ask.mock.calls[0]?.[0] as { then: (picks: Pick[]) => void }).then([pick]);
    const [, step, values] = acts.setFields.mock.calls[0] as [string, { id: number }, { places: object[] }];
    expect(step.id).toBe(5);
    expect(values.places).toEqual([
      { point: [9, 0, 0] },
      { point: [1, 2, 3], normal: [0, 0, 1], source: 'abc' },
    ]);
  });

  it('takes the sentence out with its last opening', () => {
    const alone = { ...DRAIN, places: [{ point: [9, 0, 0] }] };
    shown({ openings: [opening(5, [9, 0, 0])], spaces: [space([0])] }, [HOLLOW, alone]);
    fireEvent.click(screen.getByRole('button', { name: 'take out opening 1' }));
    expect(acts.removeStep).toHaveBeenCalledExactlyOnceWith(5);
  });

  it('says at which end each opening is, and which is a vent', () => {
    const { build, part } = built(
      {
        openings: [opening(5, [9, 0, 0]), opening(5, [0, 0, 9]), opening(6, [1, 1, 1])],
        spaces: [space([0, 1])],
      },
      [DRAIN, { kind: 'vent', id: 6, places: [{ point: [1, 1, 1] }] }],
    );
    expect(openingsOf(build, part).map(({ end, place }) => [end, place])).toEqual([
      ['plate end', 0],
      ['film end', 1],
      ['a vent', 0],
    ]);
  });

  it('counts what is bought by name and length', () => {
    const magnet = { middle: [0, 0, 0], grams: 0.5, item: 'm', name: 'Magnet 6 x 3', length: null };
    shown({}, [], 1, [magnet, magnet, { ...magnet, name: 'Brass rod 3', length: 12, grams: 0.7 }]);
    const rows = screen.getAllByRole('row').map((row) => row.textContent);
    expect(rows).toContain('Magnet 6 x 32whole1.00');
    expect(rows).toContain('Brass rod 3112.00.70');
  });
});

it('sets what it takes solid beside what it takes hollow', () => {
  const estimate = { material_ml: 9.2, money: 0.39, seconds: 7200, peak_area_mm2: 720, layers: 10 };
  const build = {
    estimate,
    gauge: { mass_g: 10.8, tip_angle_deg: 12.2 },
    parts: [{ openings: [] }],
  } as unknown as BuildRecord;
  const takes = {
    estimate: { ...estimate, material_ml: 7.1, money: 0.3, peak_area_mm2: 700 },
    grams: 8.3,
    tip_angle_deg: -2,
    openings: 2,
  } as unknown as Parameters<typeof TakesTable>[0]['ways'][number]['takes'];
  render(<TakesTable build={build} ways={[{ says: 'hollow', takes }]} />);
  const rows = screen.getAllByRole('row').map((row) => row.textContent);
  expect(rows).toContain('resin, ml9.27.1');
  expect(rows).toContain('weight, g10.88.3');
  expect(rows).toContain('tips over from12°falls over');
  expect(rows).toContain('openings to close02');
});
