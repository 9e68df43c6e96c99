// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';

import type { Finding, Remedy, SectionDrawing, StationView, Unseen } from '../app/client';
import { StationLine } from './StationLine';
import type { Checking } from './SoFar';
import { Remedies } from './Remedies';
import { Scale } from './Scale';
import { Section } from './Section';

afterEach(cleanup);

const finding = (over: Partial<Finding>): Finding => ({
  at: '',
  code: 'thin-wall',
  accepted: false,
  station: 'gauge',
  severity: 'stop',
  part: 'figure',
  title: 'Wall 0.31 mm, high, front',
  measured: 0.31,
  limit: 0.45,
  unit: 'mm',
  limit_origin: 'bench default',
  count: 1,
  where: { point: [0, 0, 0] },
  places: [],
  lines: [],
  why: '',
  remedies: [],
  ...over,
});

const remedy = (label: string, cost: Partial<Remedy['cost']>): Remedy => ({
  label,
  change: { does: 'add-steps', steps: [], here: false },
  cost: { resin_ml: null, money: null, print_seconds: null, says: '', ...cost } as Remedy['cost'],
});

describe('the scale of a finding', () => {
  it('says what is and what is wanted, and which way is wrong', () => {
    render(<Scale finding={finding({})} material="tough grey resin" />);
    expect(screen.getByRole('img', { name: '0.31 is, 0.45 mm wanted' })).toBeTruthy();
    expect(screen.getByText('tough grey resin, bench default')).toBeTruthy();
    cleanup();
    render(<Scale finding={finding({ station: 'size', measured: 200, limit: 165 })} material="" />);
    expect(screen.getByRole('img', { name: '200 is, 165.0 mm allowed' })).toBeTruthy();
  });

  it('draws nothing outside its frame, however far value and limit lie apart', () => {
    for (const [measured, limit] of [
      [0.0001, 5],
      [9000, 165],
      [0.45, 0.45],
    ] as const) {
      const { container } = render(<Scale finding={finding({ measured, limit })} material="" />);
      for (const bar of container.querySelectorAll('rect')) {
        const [x, width] = [Number(bar.getAttribute('x')), Number(bar.getAttribute('width'))];
        expect(x).toBeGreaterThanOrEqual(0);
        expect(width).toBeGreaterThanOrEqual(0);
        expect(x + width).toBeLessThanOrEqual(396);
      }
      cleanup();
    }
  });

  it('says counts and sums in words, with their unit', () => {
    const { container } = render(
      <Scale finding={finding({ station: 'mend', measured: 1316, limit: 0, unit: 'faces' })} material="" />,
    );
    expect(container.textContent).toBe('1,316 faces, none allowed, bench default');
    cleanup();
    const one = finding({ station: 'mend', measured: 1, limit: 0, unit: 'shells' });
    expect(render(<Scale finding={one} material="" />).container.textContent).toMatch(/^1 shell,/);
    cleanup();
    const island = finding({ station: 'layers', measured: 0.4, limit: 0.02, unit: 'mm²' });
    const second = render(<Scale finding={island} material="" />);
    expect(second.container.textContent).toBe('0.40 mm² at once, told from 0.02 mm² on, bench default');
  });
});

describe('remedies', () => {
  const ways = [
    remedy('Thicken here', { says: 'softens detail' }),
    remedy('Print it 40 mm tall', { resin_ml: 1.5, money: 0.06, print_seconds: 3600 }),
    remedy('Print it smaller', { resin_ml: -0.25, money: -0.01, print_seconds: -120 }),
  ];

  it('say what each costs with sign and unit, and nothing where nothing is known', () => {
    render(<Remedies remedies={ways} chosen={0} choose={vi.fn()} apply={vi.fn()} />);
    const said = screen.getAllByRole('button').map((button) => button.textContent);
    expect(said).toEqual([
      'Thicken heresoftens detail',
      'Print it 40 mm tall+1.50 ml, +0.06 in material, +1 h',
      'Print it smaller−0.25 ml, −0.01 in material, −2 min',
    ]);
  });

  it('are chosen by a first click and applied by a second, never by the first', () => {
    const choose = vi.fn();
    const apply = vi.fn();
    render(<Remedies remedies={ways} chosen={0} choose={choose} apply={apply} />);
    fireEvent.click(screen.getByText('Print it 40 mm tall'));
    expect(choose).toHaveBeenCalledExactlyOnceWith(1);
    expect(apply).not.toHaveBeenCalled();
    fireEvent.click(screen.getByText('Thicken here'));
    expect(apply).toHaveBeenCalledOnce();
  });

  it('that are none say what remains to be done', () => {
    render(<Remedies remedies={[]} chosen={0} choose={vi.fn()} apply={vi.fn()} />);
    expect(screen.getByText(/a release names it/)).toBeTruthy();
  });
});

describe('a section drawing', () => {
  const square: SectionDrawing = {
    beside: [],
    outlines: [
      [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
        [-1, -1],
      ],
      [
        [-2, 0],
        [2, 0],
      ],
    ],
    reach: 2,
    wall: 0.4,
    film: null,
    at: [0, 0],
    across: [1, 0, 0],
    up: [0, 0, 1],
  };
  const paths = (container: HTMLElement) =>
    [...container.querySelectorAll('svg > path')].map((path) => path.getAttribute('d') ?? '');

  it('hatches what closes, leaves open what does not, draws up as up, and the wall in the middle', () => {
    const { container } = render(<Section drawing={square} proposal={null} height={200} grown={null} />);
    const [solid, open] = paths(container);
    expect(solid).toBe('M99.00 179.20L297.00 179.20L297.00 -18.80L99.00 -18.80L99.00 179.20Z');
    expect(open).toBe('M0.00 80.20L396.00 80.20');
    expect(screen.getByRole('img', { name: 'Section drawing, wall 0.40 mm' })).toBeTruthy();
  });

  it('hatches no hollow whose solid does not close about it, and leaves one white within what closes', () => {
    const ring = (size: number, turn: 1 | -1): [number, number][] => {
      const corners: [number, number][] = [
        [-size, -size],
        [size, -size],
        [size, size],
        [-size, size],
        [-size, -size],
      ];
      return turn > 0 ? corners : corners.reverse();
    };
    const lone = render(
      <Section drawing={{ ...square, outlines: [ring(1, -1)] }} proposal={null} height={200} grown={null} />,
    );
    expect(paths(lone.container)[0]).toBe('');
    expect(paths(lone.container)[2]).toMatch(/Z$/);
    cleanup();
    const within = render(
      <Section
        drawing={{ ...square, outlines: [ring(2, 1), ring(1, -1)] }}
        proposal={null}
        height={200}
        grown={null}
      />,
    );
    expect(paths(within.container)[0]?.match(/Z/g)).toHaveLength(2);
  });

  it('shows a proposal dashed: the outlines tried, or the same ones grown', () => {
    const tried = { ...square, outlines: square.outlines.slice(1) };
    const first = render(<Section drawing={square} proposal={tried} height={200} grown={null} />);
    expect(paths(first.container)[2]).toBe('M0.00 80.20L396.00 80.20');
    cleanup();
    const corners: [number, number][] = [
      [-2, 0.9],
      [-2, -1.1],
      [2, -1.1],
      [2, 0.9],
      [-2, 0.9],
    ];
    const thick = render(
      <Section drawing={square} proposal={{ ...tried, outlines: [corners] }} height={200} grown={null} />,
    );
    // All of the thicker wall is seen, with room for the arrows on either side.
    expect(paths(thick.container)[2]).toBe(
      'M78.00 40.00L78.00 160.00L318.00 160.00L318.00 40.00L78.00 40.00Z',
    );
    cleanup();
    const second = render(<Section drawing={square} proposal={null} height={200} grown={1.5} />);
    expect(paths(second.container)[2]).toContain('M78.00 160.00L318.00 160.00');
  });

  it('of nothing is an empty frame with its scale', () => {
    const { container } = render(
      <Section drawing={{ ...square, outlines: [], wall: null }} proposal={null} height={168} grown={null} />,
    );
    expect(paths(container)).toEqual(['', '']);
    expect(screen.getByText('1.0 mm')).toBeTruthy();
  });
});

describe('the line', () => {
  const stations: StationView[] = [
    { station: 'mend', checked: true },
    { station: 'gauge', checked: true },
    { station: 'hollow', checked: false },
  ];

  it('bears the open findings of each station, and says what was not seen', () => {
    const unseen: Unseen[] = [{ station: 'gauge', part: 'figure', why: 'Too open.' }];
    const findings = [
      finding({ station: 'mend' }),
      finding({ station: 'mend', severity: 'caution' }),
      finding({ station: 'mend' }),
    ];
    const go = vi.fn();
    render(<StationLine {...{ stations, findings, unseen, checking: null, here: 'mend', go }} />);
    const [mend, gauge, hollow] = screen.getAllByRole('button');
    expect(mend?.getAttribute('aria-current')).toBe('step');
    expect(mend?.textContent).toBe('Mend21');
    expect(screen.getByLabelText('2 stops')).toBeTruthy();
    expect(gauge?.textContent).toBe('Gauge not seen');
    if (hollow) fireEvent.click(hollow);
    expect(go).toHaveBeenCalledExactlyOnceWith('hollow');
  });

  it('shows what a check under way has seen in place of what was there, and what is still to come', () => {
    const before = [finding({ station: 'mend' }), finding({ station: 'gauge' })];
    const checking: Checking = {
      seen: [
        { station: 'mend', findings: [], unseen: [{ station: 'mend', part: 'figure', why: 'Too open.' }] },
      ],
      toCome: ['gauge'],
    };
    render(
      <StationLine {...{ stations, findings: before, unseen: [], checking, here: 'mend', go: vi.fn() }} />,
    );
    const [mend, gauge, hollow] = screen.getAllByRole('button');
    expect([mend?.textContent, gauge?.textContent, hollow?.textContent]).toEqual([
      'Mend not seen',
      'Gauge1 …',
      'Hollow',
    ]);
  });
});
