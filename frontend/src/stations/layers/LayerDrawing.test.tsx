// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { BuildRecord, PartRecord } from '../../app/client';
import { Layers } from './Layers';

const part = {
  facts: {
    ...{ part: 'figure', factor: 1, low_mm: [0, 0, 0], size_mm: [10, 10, 50] },
    print_axes: [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ],
    print_offset_mm: [0, 0, 0],
  },
  layers: 'blob',
  layer_frame: { left: 0, front: 0, foot: 0, wide: 10, deep: 10, layer: 0.05 },
  estimate: { layers: 1000, seconds: 7200, material_ml: 3, money: 1, model: 'so and so.' },
  areas: [10, 80, 20],
  look: { layer: 499, seconds: 3600, weak_layer: 219 },
  pull: 0.01,
} as unknown as PartRecord;

const finding = (code: string, z: number) => ({
  ...{ code, station: 'layers', part: 'figure', title: `${code} here` },
  where: { point: [0, 0, z] },
});

const shown = (over: object = {}) => {
  const held = { ...part, ...over } as PartRecord;
  const build = {
    key: 'k',
    parts: [held],
    findings: [finding('gap', 20.01), finding('island', 5.01), { ...finding('cup', 1), station: 'stand' }],
  } as unknown as BuildRecord;
  const page = { id: 3, looked: 'e1' } as never;
  render(<Layers page={page} build={build} part={held} large={false} />);
};

beforeEach(() => vi.useFakeTimers());
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const at = () => Number(screen.getByRole<HTMLInputElement>('slider', { name: 'Layer' }).value) + 1;

it('goes to the layers at which something was found, by their names and by keys', () => {
  shown();
  fireEvent.click(screen.getByRole('button', { name: 'layer 401' }));
  expect(at()).toBe(401);
  fireEvent.keyDown(document.body, { key: '<' });
  expect(at()).toBe(101);
  fireEvent.keyDown(document.body, { key: '>' });
  expect(at()).toBe(401);
  expect(screen.queryByText('cup here')).toBeNull();
});

it('plays the layers to the last and stops there', () => {
  shown();
  fireEvent.click(screen.getByRole('button', { name: 'layer 101' }));
  fireEvent.keyDown(document.body, { key: 'v' });
  act(() => vi.advanceTimersByTime(1000));
  expect(at()).toBeGreaterThan(150);
  act(() => vi.advanceTimersByTime(60_000));
  expect(at()).toBe(1000);
  expect(screen.getByRole('button', { name: /play the layers/ })).toBeTruthy();
});

it('says when to look, the pull of the largest layer, and where all layers can be had', () => {
  shown();
  expect(screen.getByText(/first after 1 h.*layer 500.*220/)).toBeTruthy();
  expect(screen.getByRole('img', { name: /most 80.0 mm², pulled off with 0.8 N/ })).toBeTruthy();
  const link = screen.getByRole<HTMLAnchorElement>('link', { name: 'all layers as pictures, ZIP' });
  expect(link.getAttribute('href')).toBe('/api/figures/3/parts/0/layers.zip?edition=e1');
  cleanup();
  shown({ look: null, pull: null });
  expect(screen.getByText(/when it is done/)).toBeTruthy();
  expect(screen.getByRole('img', { name: 'Area over height, most 80.0 mm²' })).toBeTruthy();
});
