// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, Finding, Gauge, Setup } from '../../app/client';
import type { Pick } from '../../figure/picking';
import { nameOf } from '../../figure/Naming';
import { acceptable, acceptance, Accepting } from '../../figure/Accepting';
import type { Sheet } from '../../figure/sheet';
import { WholeStation } from '../../testing/wholeStation';
import { station } from './station';

afterEach(cleanup);

const edition = {
  height: 30,
  factor: null,
  setting: 'lantern-6-tough-grey',
  use: 'tabletop',
  sanding: 0,
};
const limb = {
  part: 'figure',
  name: 'high, left',
  force_N: 0.153,
  lever_mm: 12.5,
  section_mm: 0.74,
  slips: false,
  drop: true,
  point: [1, 2, 3],
};
const gauge = {
  limbs: [limb, { ...limb, force_N: 31.4, slips: true, drop: false, point: [0, 0, 0] }],
  mass_g: 10.2,
  inserts_g: 0.451,
  tip_angle_deg: 19.7,
  centre_mm: 21,
  detail_lost: 0.034,
  detail_factor: 2.46,
  places: [],
  walls: null,
  surer: [],
  tips: [
    { way: 'right', angle_deg: 31 },
    { way: 'front', angle_deg: 19.7 },
  ],
} as unknown as Gauge;
const finding = {
  code: 'snap-risk',
  station: 'gauge',
  part: 'figure',
  accepted: false,
  where: { point: [4, 5, 6], extent: 12 },
} as unknown as Finding;

const place = { part: 'figure', given: false, limit_mm: 0.45, normal: [0, 0, 1] };
const places = [
  { ...place, name: 'tip, high', kind: 'pin', stops: true, least_mm: 0.2, extent_mm: 1, point: [1, 1, 1] },
  {
    ...place,
    name: 'sheet, low',
    kind: 'free-standing',
    stops: false,
    least_mm: 0.5,
    extent_mm: 9,
    point: [2, 2, 2],
  },
  { ...place, name: 'a mast', kind: 'pin', stops: true, least_mm: 0.3, extent_mm: 4, point: [3, 3, 3] },
] as unknown as Gauge['places'];

const limit = (stop: number, caution: number) => ({ stop, caution });
const RESIN = {
  material: { name: 'Grey resin', process: 'resin' },
  setting: {
    walls: { held: limit(0.36, 0.56), free_standing: limit(0.45, 0.7), pin: limit(0.5, 0.7) },
    origins: { 'walls.pin.stop': { kind: 'learnt', since: '2026-11-02' } },
  },
} as unknown as Setup;

function panel(over: Partial<Gauge> = {}, findings: Finding[] = []) {
  const setEdition = vi.fn();
  const showPlace = vi.fn();
  const addStep = vi.fn();
  let picked: ((picks: Pick[]) => void) | undefined;
  const picking = {
    ask: (asked: { then: (picks: Pick[]) => void }) => (picked = asked.then),
  };
  const sheet = {
    picking,
    showPlace,
    setup: RESIN,
    part: { source: 'abc', detail_display: 'd' },
    tinting: 'walls',
    setTinting: vi.fn(),
    page: { edition },
    build: { gauge: { ...gauge, ...over }, findings, key: 'k1', size_mm: [10, 10, 30] },
    acts: { setEdition, addStep },
  };
  render(<WholeStation station={station} sheet={sheet as unknown as Sheet} />);
  return { setEdition, showPlace, addStep, pick: (picks: Pick[]) => picked?.(picks) };
}

describe('Gauge', () => {
  it('ranks what breaks first, with units, and says what is a guess', () => {
    panel({}, [finding, { ...finding, accepted: true }]);
    expect(screen.getByRole('heading', { level: 2 }).textContent).toBe('1 finding to look at');
    const [limbs] = screen.getAllByRole('table');
    const rows = within(limbs as HTMLElement)
      .getAllByRole('row')
      .slice(1);
    expect(rows.map((row) => row.textContent)).toEqual([
      'high, left, may break in a fall0.150.7412.5',
      'high, left, gives way to a finger310.7412.5',
    ]);
    expect(
      screen.getByText(
        /10.2 g solid, 0.45 g of it wire.*21.0 mm up; tips over from 19.7° \(front 20°, right 31°\)/,
      ),
    ).toBeTruthy();
    expect(
      screen.getByText(/3.4 % of the surface will not show.*at 2.5 times the size, 73.8 mm tall/),
    ).toBeTruthy();
  });

  it('says what could not be told instead of nothing', () => {
    panel({ limbs: [], mass_g: null, tip_angle_deg: null, centre_mm: null, detail_lost: null });
    expect(screen.getByText('not told: the figure does not close')).toBeTruthy();
    expect(screen.getByText(/Nothing sticks out/)).toBeTruthy();
    cleanup();
    panel({ tip_angle_deg: -3, detail_lost: 0 });
    expect(screen.getByText(/it falls over by itself/)).toBeTruthy();
    expect(screen.getByText(/all of it shows/)).toBeTruthy();
  });

  it('is asked for another use', () => {
    const { setEdition } = panel();
    fireEvent.mouseDown(screen.getByLabelText('What it goes through'));
    fireEvent.click(screen.getByRole('option', { name: /toy or prop/ }));
    expect(setEdition).toHaveBeenCalledWith({ ...edition, use: 'play' });
  });
});

describe('thin places', () => {
  const names = () =>
    screen.getAllByRole('rowheader').flatMap((cell) => {
      const name = cell.querySelector('u')?.textContent;
      return name ? [name] : [];
    });

  it('are sorted by any column, one way and the other, and filtered, and the file follows', () => {
    panel({ places });
    expect(names()).toEqual(['tip, high', 'a mast', 'sheet, low']);
    fireEvent.click(screen.getByRole('button', { name: /where/ }));
    expect(names()).toEqual(['a mast', 'sheet, low', 'tip, high']);
    fireEvent.click(screen.getByRole('button', { name: /long, mm/ }));
    fireEvent.click(screen.getByRole('button', { name: /long, mm/ }));
    expect(names()).toEqual(['sheet, low', 'a mast', 'tip, high']);
    expect(screen.getByRole('columnheader', { name: /long, mm/ }).getAttribute('aria-sort')).toBe(
      'descending',
    );
    fireEvent.mouseDown(screen.getByLabelText('Places shown'));
    fireEvent.click(screen.getByRole('option', { name: 'pins' }));
    expect(names()).toEqual(['a mast', 'tip, high']);
    expect(screen.getByRole('link', { name: '2 places as CSV' }).getAttribute('href')).toBe(
      '/api/builds/k1/places.csv?kind=pin',
    );
  });

  it('are turned to', () => {
    const { showPlace } = panel({ places });
    fireEvent.click(screen.getByRole('button', { name: 'a mast' }));
    expect(showPlace).toHaveBeenCalledWith('figure', [3, 3, 3]);
  });

  it('take their names from the user, within their own length', () => {
    const build = {
      parts: [{ source: 's', facts: { part: 'figure', factor: 2 } }],
    } as unknown as BuildRecord;
    expect(nameOf(finding, 'mast', build)).toEqual({
      kind: 'name-place',
      scope: null,
      name: 'mast',
      places: [{ point: [4, 5, 6], normal: null, source: 's' }],
      within: 3,
    });
  });
});

describe('walls', () => {
  it('are told as shares under the limits of the material', () => {
    panel({
      walls: { upto_mm: [0.45, 0.7, 4], shares: [0.1, 0.2, 0.3], beyond: 0.4, stops: 0.07, wants_care: 0.3 },
    });
    expect(
      screen.getByText('Of the surface 7.0 % under 0.45 mm, 30.0 % under 0.70 mm, 40.0 % over 4.0 mm.'),
    ).toBeTruthy();
  });

  it('have limits by kind, each with where it comes from', () => {
    panel();
    fireEvent.click(screen.getByText('What walls have to have in grey resin, printed in resin'));
    const rows = screen.getAllByRole('row').map((row) => row.textContent);
    expect(rows).toContain('a wall held on both sides0.360.56bench default');
    expect(rows).toContain('a pin0.500.70learnt');
  });

  it('are sanded by what is typed, once it is sense', () => {
    const { setEdition } = panel();
    const field = screen.getByLabelText('Sanding takes off a side, mm');
    fireEvent.change(field, { target: { value: '7' } });
    fireEvent.blur(field);
    expect(setEdition).not.toHaveBeenCalled();
    fireEvent.change(field, { target: { value: '0,05' } });
    fireEvent.keyDown(field, { key: 'Enter' });
    expect(setEdition).toHaveBeenCalledWith({ ...edition, sanding: 0.05 });
  });
});

describe('a level face', () => {
  it('is picked and goes on record', () => {
    const { addStep, pick } = panel();
    fireEvent.click(screen.getByRole('button', { name: 'Pick a face meant to be level' }));
    pick([{ point: [1, 2, 3], normal: [0, 0, 1], view: [0, 1, 0] }]);
    expect(addStep.mock.calls[0]?.[1]).toEqual({
      kind: 'meant-level',
      places: [{ point: [1, 2, 3], normal: [0, 0, 1], source: 'abc' }],
    });
  });
});

describe('accepting', () => {
  it('wants a reason, and is of the place of the finding at any size', () => {
    const accept = vi.fn();
    render(<Accepting accept={accept} />);
    const button = screen.getByRole('button', { name: 'Accept it' });
    expect(button).toHaveProperty('disabled', true);
    fireEvent.change(screen.getByLabelText('Why it may stay'), { target: { value: '  cast in metal ' } });
    fireEvent.click(button);
    expect(accept).toHaveBeenCalledWith('cast in metal');
    const build = { parts: [{ facts: { part: 'figure', factor: 2 } }] } as unknown as BuildRecord;
    expect(acceptance(finding, 'cast in metal', build)).toEqual({
      kind: 'accept',
      scope: null,
      finding: 'snap-risk',
      reason: 'cast in metal',
      place: [4, 5, 6],
      within: 3,
    });
  });

  it('is for risks only, and once', () => {
    expect(acceptable(finding)).toBe(true);
    expect(acceptable({ ...finding, accepted: true })).toBe(false);
    expect(acceptable({ ...finding, code: 'open-edges' })).toBe(false);
  });
});
