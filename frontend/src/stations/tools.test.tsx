// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, FigurePage, PartRecord } from '../app/client';
import type { Asked, Outline, Pick } from '../figure/picking';
import type { FigureActs } from '../figure/useFigure';
import { ForeignThings } from './size/Foreign';
import { Measured, Measures } from './size/Measures';
import { Captured } from './bring_in/Captured';
import { Even, Rims, TrueSize, Upright } from './bring_in/Scan';
import { ThinOut } from './bring_in/Sources';
import { Trimming } from './bring_in/Trimming';
import { SizeScale } from './size/SizeScale';
import { measuredLengths } from './size/Ways';
import { unasked } from '../testing/unasked';

const facts = { part: 'figure', factor: 0.5, size_mm: [12, 9, 30], low_mm: [-5, -4.5, 0] };
const part = {
  facts,
  captured: {
    mean: 0.04,
    most: 0.1,
    reach: 0.8,
    invented: 400,
    counts: [1, 8, 2],
    edges: [-0.2, -0.1, 0.1, 0.2],
  },
} as unknown as PartRecord;
let ids = 0;
const step = (kind: string, values: object, measures: object = {}) => ({
  step: { kind, id: ++ids, on: true, ...values },
  sentence: [`${kind} said.`],
  receipt: measures,
});
const build = (...steps: object[]) =>
  ({
    key: 'k',
    size_mm: [12, 9, 30],
    parts: [part],
    ghosts: [],
    steps: [step('bring-in', { source: 's' }), ...steps],
  }) as unknown as BuildRecord;
const page = { id: 4 } as unknown as FigurePage;

const addStep = vi.fn();
const removeStep = vi.fn();
const showBox = vi.fn();
const acts = { addStep, removeStep, busy: false, stale: false } as unknown as FigureActs;
let asked: Asked | null;
const picking = unasked((next: Asked) => {
  asked = next;
});
const pickAll = (...picks: Pick[]) => asked && 'then' in asked && asked.then(picks);
const at = (x: number): Pick => ({ point: [x, 0, 0], normal: [0, 0, 1], view: [0, -1, 0] });
const kept = (x: number) => ({ point: [x, 0, 0], normal: [0, 0, 1], source: 's' });
const show = (inside: ReactNode) =>
  render(<QueryClientProvider client={new QueryClient()}>{inside}</QueryClientProvider>);
const choose = (label: string, option: string) => {
  fireEvent.mouseDown(screen.getByRole('combobox', { name: label }));
  fireEvent.click(screen.getByRole('option', { name: option }));
};

beforeEach(() => {
  vi.clearAllMocks();
  asked = null;
});
afterEach(cleanup);

describe('a measurement', () => {
  it('wants a name, then as many picks as its way takes, and is kept as anchors', () => {
    show(<Measures build={build()} part={part} acts={acts} picking={picking} />);
    const pick = screen.getByRole('button', { name: 'Pick on the figure' });
    expect(pick).toHaveProperty('disabled', true);
    fireEvent.change(screen.getByLabelText('Name of the measurement'), { target: { value: ' beak ' } });
    choose('What is measured', 'across, by three picks');
    fireEvent.click(pick);
    expect(asked).toMatchObject({ count: 3 });
    pickAll(at(1), at(2), at(3));
    expect(addStep).toHaveBeenCalledWith('measured beak', {
      kind: 'measure',
      scope: null,
      name: 'beak',
      how: 'diameter',
      places: [kept(1), kept(2), kept(3)],
    });
  });

  it('belongs to the part it was picked on where there are several', () => {
    const two = { ...build(), parts: [part, part] } as BuildRecord;
    show(<Measures build={two} part={part} acts={acts} picking={picking} />);
    fireEvent.change(screen.getByLabelText('Name of the measurement'), { target: { value: 'arm' } });
    fireEvent.click(screen.getByRole('button', { name: 'Pick on the figure' }));
    pickAll(at(1), at(2));
    expect(addStep.mock.calls[0]?.[1]).toMatchObject({ scope: 'figure' });
  });

  it('is a length to size by, unless it is an angle or was lost', () => {
    const found = build(
      step('measure', { name: 'arm', how: 'straight' }, { figure: 12, printed: 6 }),
      step('measure', { name: 'elbow', how: 'angle' }, { figure: 90, printed: 90 }),
      step('measure', { name: 'gone', how: 'straight' }),
    );
    expect(measuredLengths(found)).toEqual([{ name: 'arm', figure: 12 }]);
  });

  it('is taken out by the id of its sentence', () => {
    const arm = step('measure', { name: 'arm' });
    show(<Measured build={build(arm)} acts={acts} />);
    fireEvent.click(screen.getByText('take out'));
    expect(removeStep).toHaveBeenCalledWith(arm.step.id);
  });
});

describe('a foreign thing', () => {
  const panel = (over: object = {}) =>
    show(<ForeignThings page={page} build={build()} acts={{ ...acts, ...over }} />);

  it('is laid beside the figure, clear of it, in figure millimetres', () => {
    panel();
    fireEvent.change(screen.getByLabelText('Name of the thing'), { target: { value: 'magnet' } });
    choose('Shape of the thing', 'a disc or magnet');
    fireEvent.change(screen.getByLabelText('across, mm'), { target: { value: '8' } });
    const lay = screen.getByRole('button', { name: 'Lay it there' });
    expect(lay).toHaveProperty('disabled', true);
    fireEvent.change(screen.getByLabelText('thick, mm'), { target: { value: '2,5' } });
    fireEvent.click(lay);
    // Half the figure, half the disc and four millimetres beside, at a factor of a half.
    expect(addStep).toHaveBeenCalledWith('laid magnet beside it', {
      kind: 'foreign',
      name: 'magnet',
      thing: { shape: 'disc', diameter: 8, thickness: 2.5 },
      at: [28, 0, 0],
    });
  });

  it('waits while the figure is being checked', () => {
    panel({ stale: true });
    fireEvent.change(screen.getByLabelText('Name of the thing'), { target: { value: 'rod' } });
    for (const label of ['across, mm', 'long, mm'])
      fireEvent.change(screen.getByLabelText(label), { target: { value: '3' } });
    expect(screen.getByRole('button', { name: 'Lay it there' })).toHaveProperty('disabled', true);
  });
});

describe('a scan', () => {
  const panel = (...steps: object[]) =>
    show(
      <>
        {part.captured && <Captured captured={part.captured} factor={0.5} />}
        <Upright {...{ acts, picking }} build={build(...steps)} />
        <TrueSize {...{ acts, picking }} build={build(...steps)} />
        <Rims {...{ acts, picking }} build={build(...steps)} />
        <Even acts={acts} />
        <Trimming {...{ part, acts, picking, showBox }} />
      </>,
    );

  it('is told against what was captured at print size', () => {
    panel();
    const says = 'Captured points lie 0.020 mm off on average, 95 in a hundred within 0.050 mm.';
    expect(screen.getByRole('img', { name: says })).toBeTruthy();
    expect(screen.getByText(/100 mm² of the surface nobody/)).toBeTruthy();
  });

  it('adds a caliper length to those that are there', () => {
    panel(step('set-lengths', { lengths: [{ name: 'width' }] }));
    fireEvent.change(screen.getByLabelText('What was measured'), { target: { value: 'trunk' } });
    fireEvent.change(screen.getByLabelText('By calipers, mm'), { target: { value: '40' } });
    fireEvent.click(screen.getByRole('button', { name: 'Pick its ends on the figure' }));
    pickAll(at(1), at(2));
    expect(addStep).toHaveBeenCalledWith('size by calipers', {
      kind: 'set-lengths',
      lengths: [{ name: 'width' }, { name: 'trunk', a: kept(1), b: kept(2), real: 40 }],
    });
  });

  it('is set upright by three picks and cut at a height in print millimetres', () => {
    panel();
    fireEvent.click(screen.getAllByRole('button', { name: 'Pick three places' })[0] as HTMLElement);
    expect(asked).toMatchObject({ count: 3 });
    pickAll(at(1), at(2), at(3));
    expect(addStep.mock.calls[0]?.[1]).toEqual({ kind: 'right-axis', picks: [kept(1), kept(2), kept(3)] });
    const cut = screen.getByRole('button', { name: 'Cut' });
    expect(cut).toHaveProperty('disabled', true);
    fireEvent.change(screen.getByLabelText('Cut away below, mm up'), { target: { value: '3' } });
    fireEvent.click(cut);
    expect(addStep.mock.calls[1]?.[1]).toMatchObject({
      kind: 'trim',
      volume: { point: [0, 0, 6], normal: [0, 0, -1] },
    });
  });
});

describe('the mesh of a scan', () => {
  it('is smoothed at all its rims or at one, and evened', () => {
    show(
      <>
        <Rims {...{ acts, picking }} build={build()} />
        <Even acts={acts} />
      </>,
    );
    fireEvent.click(screen.getByRole('button', { name: 'Smooth all rims' }));
    fireEvent.click(screen.getByRole('button', { name: 'Smooth the rim by a pick' }));
    pickAll(at(1));
    fireEvent.click(screen.getByRole('button', { name: 'Even its triangles' }));
    expect(addStep.mock.calls.map(([, said]) => said as object)).toEqual([
      { kind: 'smooth-rims' },
      { kind: 'smooth-rims', places: [kept(1)] },
      { kind: 'even' },
    ]);
  });
});

describe('thinning out', () => {
  it('is by how far the surface may move, or by how many triangles are left', () => {
    show(<ThinOut acts={acts} />);
    const button = screen.getByRole('button', { name: 'Thin it out' });
    fireEvent.change(screen.getByLabelText('Nothing moves more than, mm'), { target: { value: '0,05' } });
    fireEvent.click(button);
    choose('Thin out until', 'so many triangles are left');
    fireEvent.change(screen.getByLabelText('Triangles left, about'), { target: { value: '3' } });
    expect(button).toHaveProperty('disabled', true);
    fireEvent.change(screen.getByLabelText('Triangles left, about'), { target: { value: '900.4' } });
    fireEvent.click(button);
    expect(addStep.mock.calls.map(([, said]) => said as object)).toEqual([
      { kind: 'simplify', deviation: 0.05 },
      { kind: 'simplify', triangles: 900 },
    ]);
  });
});

describe('cutting away', () => {
  const panel = (how: string) => {
    show(<Trimming part={part} acts={acts} picking={picking} showBox={showBox} />);
    choose('Cut away with', how);
  };

  it('takes a box in print millimetres from the sides of the part, shown while it is set', () => {
    panel('a box');
    const fields = ['from, mm from the left', 'to, mm from the left'].map((label) =>
      screen.getByLabelText(label),
    );
    for (const [k, text] of ['0', '4'].entries())
      fireEvent.change(fields[k] as Element, { target: { value: text } });
    choose('What is cut away', 'what is outside');
    fireEvent.click(screen.getByRole('button', { name: 'Cut' }));
    const step = addStep.mock.calls[0]?.[1] as { volume: { low: number[]; high: number[] } };
    expect(step).toMatchObject({ kind: 'trim', inside: false, volume: { volume: 'box' } });
    // The part begins 5 mm left of the origin and prints at half the size of its source.
    expect([step.volume.low[0], step.volume.high[0]]).toEqual([-10, -2]);
    expect(showBox).toHaveBeenLastCalledWith([step.volume.low, step.volume.high]);
    fireEvent.change(fields[1] as Element, { target: { value: '0' } });
    expect(screen.getByText('Each side of the box goes from less to more.')).toBeTruthy();
    expect(showBox).toHaveBeenLastCalledWith(null);
  });

  it('takes the side of a plane that is looked at, and nothing for three places in a line', () => {
    panel('a plane through three places');
    const cut = () => fireEvent.click(screen.getByRole('button', { name: 'Pick three places' }));
    const place = (x: number, z: number): Pick => ({ point: [x, 2, z], normal: [1, 0, 0], view: [0, -1, 0] });
    cut();
    pickAll(place(0, 0), place(1, 0), place(2, 0));
    expect(addStep).not.toHaveBeenCalled();
    for (const turned of [1, -1]) {
      cut();
      pickAll(place(0, 0), place(turned, 0), place(0, 1));
      const step = addStep.mock.lastCall?.[1] as { volume: { normal: number[] } };
      expect(step.volume.normal.map((value) => value + 0)).toEqual([0, -1, 0]);
    }
  });

  it('takes what is behind a line drawn on the chart', () => {
    panel('a line drawn on the chart');
    fireEvent.click(screen.getByRole('button', { name: 'Draw on the chart' }));
    const drawn: Outline = {
      view: [0, -1, 0],
      across: [1, 0, 0],
      outline: [
        [0, 0],
        [1, 0],
        [0, 1],
      ],
    };
    if (asked && 'outlined' in asked) asked.outlined(drawn);
    expect(addStep).toHaveBeenCalledWith('trimmed', {
      kind: 'trim',
      inside: true,
      volume: { volume: 'lasso', ...drawn },
    });
  });
});

describe('thin places by size', () => {
  const size = (height: number, thin: number, stops: number) => ({ height, thin, stops });
  const sized = (smallest: number | null, ...sizes: object[]) =>
    ({ ...build(), sizes: { sizes, smallest } }) as BuildRecord;

  it('are said in words with the smallest size that prints', () => {
    show(<SizeScale build={sized(26.4, size(15, 9, 4), size(30, 3, 1), size(60, 0, 0))} />);
    expect(screen.getByRole('img').getAttribute('aria-label')).toContain('from 15.0 to 60.0 mm tall');
    expect(screen.getByText('The smallest size at which this prints: 26.4 mm tall.')).toBeTruthy();
  });

  it('say that no size helps where none does, and draw nothing of a single size', () => {
    const { rerender } = render(<SizeScale build={sized(null, size(15, 9, 4), size(60, 9, 4))} />);
    expect(screen.getByText(/At no size up to eight times/)).toBeTruthy();
    rerender(<SizeScale build={sized(null, size(15, 9, 4))} />);
    expect(screen.queryByRole('img')).toBeNull();
    rerender(<SizeScale build={{ ...build(), sizes: null } as BuildRecord} />);
    expect(screen.queryByRole('img')).toBeNull();
  });
});
