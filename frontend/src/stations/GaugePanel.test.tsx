// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, FigurePage, Finding, Gauge } from '../app/client';
import { acceptable, acceptance, Accepting } from '../figure/Accepting';
import type { FigureActs } from '../figure/useFigure';
import { GaugePanel } from './GaugePanel';

afterEach(cleanup);

const edition = { height: 30, factor: null, printer: 'lantern-6', material: 'tough-grey', use: 'tabletop' };
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
  tip_angle_deg: 19.7,
  centre_mm: 21,
  detail_lost: 0.034,
  detail_factor: 2.46,
} as unknown as Gauge;
const finding = {
  code: 'snap-risk',
  station: 'gauge',
  part: 'figure',
  accepted: false,
  where: { point: [4, 5, 6], extent: 12 },
} as unknown as Finding;

function panel(over: Partial<Gauge> = {}, findings: Finding[] = []) {
  const setEdition = vi.fn();
  render(
    <GaugePanel
      page={{ edition } as unknown as FigurePage}
      build={{ gauge: { ...gauge, ...over }, findings } as unknown as BuildRecord}
      acts={{ setEdition } as unknown as FigureActs}
    />,
  );
  return setEdition;
}

describe('Gauge', () => {
  it('ranks what breaks first, with units, and says what is a guess', () => {
    panel({}, [finding, { ...finding, accepted: true }]);
    expect(screen.getByRole('heading', { level: 2 }).textContent).toBe('1 finding to look at');
    const rows = screen.getAllByRole('row').slice(1);
    expect(rows.map((row) => row.textContent)).toEqual([
      'high, left, may break in a fall0.150.7412.5',
      'high, left, gives way to a finger310.7412.5',
    ]);
    expect(screen.getByText(/10.2 g solid.*21.0 mm up; tips over from 19.7°/)).toBeTruthy();
    expect(screen.getByText(/3.4 % of the surface will not show.*at 2.5 times the size/)).toBeTruthy();
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
    const setEdition = panel();
    fireEvent.mouseDown(screen.getByLabelText('What it goes through'));
    fireEvent.click(screen.getByRole('option', { name: /toy or prop/ }));
    expect(setEdition).toHaveBeenCalledWith({ ...edition, use: 'play' });
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
