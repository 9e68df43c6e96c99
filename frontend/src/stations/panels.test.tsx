// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import type { ReactNode } from 'react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, FigurePage, Finding, Setup } from '../app/client';
import type { FigureActs } from '../figure/useFigure';
import { usePicking } from '../figure/picking';
import type { Sheet } from '../figure/sheet';
import { WholeStation } from '../testing/wholeStation';
import { station as layers } from './layers/station';
import { station as release } from './release/station';
import { station as size } from './size/station';

const build = {
  key: 'k',
  size_mm: [12, 9, 30],
  parts: [
    {
      facts: { part: 'figure', size_mm: [12, 9, 30], low_mm: [-6, -4.5, 0], factor: 0.5, triangles: 1000 },
      areas: [4, 9, 2],
      layers: 'blob',
      estimate: { layers: 600, seconds: 5000, material_ml: 2.5, money: 0.11, model: 'Layers times seconds.' },
      layer_frame: { left: -6, front: -4.5, foot: 0, wide: 12, deep: 9, layer: 0.05 },
    },
  ],
  steps: [],
  findings: [],
  unseen: [],
  ghosts: [],
  sizes: null,
} as unknown as BuildRecord;

const edition = { height: 30, factor: null, setting: 'grey', form: { mirrored: false } };
const page = {
  name: 'Heron',
  id: 4,
  edition,
  editions: [],
  cautions: ['Wear gloves.'],
  sources: [],
} as unknown as FigurePage;
const inSetting = (id: string, name: string, stop: number, retired = false) => ({
  ...{ id, name, retired },
  setting: { layer: 0.05, walls: { free_standing: { stop } } },
});
const setups = [
  inSetting('grey', 'Grey on Lantern 6', 0.45),
  inSetting('reed', 'Matt on Long Reed', 0.8),
  inSetting('old', 'An old one', 0.5, true),
] as unknown as Setup[];

let setEdition: ReturnType<typeof vi.fn>;
const acts = (over = {}) => ({ setEdition, stale: false, ...over }) as unknown as FigureActs;
const show = (inside: ReactNode) =>
  render(<QueryClientProvider client={new QueryClient()}>{inside}</QueryClientProvider>);

const sheet = (over: object) =>
  ({ page, build, setups, acts: acts(), large: false, ...over }) as unknown as Sheet;

function Sized() {
  const picking = usePicking();
  return (
    <MemoryRouter>
      <WholeStation station={size} sheet={sheet({ picking })} />
    </MemoryRouter>
  );
}

beforeEach(() => {
  setEdition = vi.fn();
  vi.stubGlobal(
    'fetch',
    vi.fn(() => Promise.resolve(new Response('[]', { headers: { 'Content-Type': 'application/json' } }))),
  );
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe('the size', () => {
  const panel = () => show(<Sized />);

  it('is set by height or by factor, the one clearing the other', () => {
    panel();
    const height = screen.getByLabelText('Overall height, mm');
    fireEvent.change(height, { target: { value: '45,5' } });
    fireEvent.keyDown(height, { key: 'Enter' });
    expect(setEdition).toHaveBeenLastCalledWith({ ...edition, height: 45.5, factor: null });
    const factor = screen.getByLabelText('Factor from source to print');
    fireEvent.change(factor, { target: { value: '2' } });
    fireEvent.blur(factor);
    expect(setEdition).toHaveBeenLastCalledWith({ ...edition, height: null, factor: 2 });
  });

  it.each(['', 'tall', '-3', '0', 'Infinity'])('is not set to %j', (typed) => {
    panel();
    const height = screen.getByLabelText('Overall height, mm');
    fireEvent.change(height, { target: { value: typed } });
    fireEvent.blur(height);
    expect(setEdition).not.toHaveBeenCalled();
    expect(height.getAttribute('aria-invalid')).toBe('true');
  });

  it('is made in another setting, with nothing else changed', () => {
    panel();
    fireEvent.mouseDown(screen.getByLabelText('Setting'));
    fireEvent.click(screen.getByRole('option', { name: /Long Reed/ }));
    expect(setEdition).toHaveBeenLastCalledWith({ ...edition, setting: 'reed' });
  });

  it('offers no setting that is retired', () => {
    panel();
    fireEvent.mouseDown(screen.getByLabelText('Setting'));
    expect(screen.getAllByRole('option').map((option) => option.textContent)).toEqual([
      'Grey on Lantern 6, layers 0.05 mm, walls from 0.45 mm',
      'Matt on Long Reed, layers 0.05 mm, walls from 0.80 mm',
    ]);
  });

  it('gives one part a setting of its own', () => {
    panel();
    fireEvent.mouseDown(screen.getByLabelText('Setting of figure'));
    fireEvent.click(screen.getByRole('option', { name: /Long Reed/ }));
    expect(setEdition).toHaveBeenLastCalledWith({ ...edition, part_settings: { figure: 'reed' } });
  });
});

describe('a release', () => {
  const panel = (over: Partial<BuildRecord>, state = {}) =>
    show(
      <MemoryRouter>
        <WholeStation
          station={release}
          sheet={sheet({
            build: { ...build, ...over },
            acts: acts(state),
            picking: { ask: vi.fn(), asked: null },
          })}
        />
      </MemoryRouter>,
    );
  const stop = { severity: 'stop', title: 'Wall 0.3 mm' } as Finding;

  it('names what was not looked at, and says nothing is open where nothing is', () => {
    panel({});
    expect(screen.queryByText('Open on this edition, and named in a release')).toBeNull();
    cleanup();
    panel({ unseen: [{ station: 'gauge', part: 'figure', why: 'Walls were not measured.' }] });
    expect(screen.getByText('Walls were not measured.')).toBeTruthy();
  });

  it('names at most forty findings and counts the rest', () => {
    panel({ findings: Array.from({ length: 979 }, () => stop) });
    expect(screen.getAllByText('Wall 0.3 mm')).toHaveLength(40);
    expect(screen.getByText('and 939 more')).toBeTruthy();
  });

  it('waits for the check of what changed', () => {
    panel({}, { stale: true });
    expect(screen.getByRole('button', { name: 'Pack it' })).toHaveProperty('disabled', true);
  });
});

describe('the layers', () => {
  it('begin where the printer cures most, and are turned by the range', () => {
    show(<WholeStation station={layers} sheet={sheet({})} />);
    expect(screen.getByRole('img', { name: /Layer 201 from above/ })).toBeTruthy();
    fireEvent.change(screen.getByLabelText('Layer'), { target: { value: '599' } });
    expect(screen.getByRole('img', { name: /Layer 600/ }).getAttribute('src')).toBe(
      '/api/builds/k/parts/0/layers/599.png',
    );
    expect(screen.getByText(/30.0 mm up, about 2.0 mm², reached after 1 h 23 min/)).toBeTruthy();
  });
});
