// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord } from '../../app/client';
import type { Asked } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { References } from './References';
import { unasked } from '../../testing/unasked';

const acts = { addStep: vi.fn(), setFields: vi.fn(), removeStep: vi.fn(), busy: false, stale: false };
let asked: Asked | null = null;
const picking = unasked((next: Asked) => (asked = next));

function show(...kept: object[]) {
  const build = {
    size_mm: [20, 10, 60],
    parts: [{ facts: { part: 'figure', factor: 2 } }],
    steps: [{ kind: 'bring-in' }, ...kept.map((one) => ({ kind: 'refer-to', ...one }))].map((step) => ({
      step,
    })),
  } as unknown as BuildRecord;
  render(<References {...{ build, picking }} acts={acts as unknown as FigureActs} />);
}
const SIDE = {
  id: 5,
  name: 'side.jpg',
  shown: 'h',
  ratio: 2,
  seen_from: 'front',
  wide: 10,
  across: 1,
  up: 2,
};
const draw = (outline: [number, number][], view: [number, number, number] = [0, -1, 0]) => {
  if (asked && 'outlined' in asked)
    asked.outlined({ view, across: view[0] ? [0, -1, 0] : [1, 0, 0], outline });
};

beforeEach(() => vi.clearAllMocks());
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe('a picture to work from', () => {
  it('is kept as tall as the figure, and says why one cannot be', async () => {
    const answer = {
      ok: true,
      json: () => Promise.resolve({ shown: 'h', file_name: 'side.jpg', ratio: 1.5 }),
    };
    vi.stubGlobal('fetch', () => Promise.resolve(answer));
    show();
    const take = () =>
      fireEvent.change(screen.getByLabelText('A picture to work from'), {
        target: { files: [new File(['x'], 'side.jpg')] },
      });
    take();
    await waitFor(() => expect(acts.addStep).toHaveBeenCalledTimes(1));
    expect(acts.addStep.mock.calls[0]?.[1]).toEqual({
      kind: 'refer-to',
      name: 'side.jpg',
      shown: 'h',
      ratio: 1.5,
      wide: 20,
    });
    const refusal = { ok: false, json: () => Promise.resolve({ detail: 'side.txt: neither.' }) };
    vi.stubGlobal('fetch', () => Promise.resolve(refusal));
    take();
    await waitFor(() => expect(screen.getByRole('alert').textContent).toBe('side.txt: neither.'));
  });

  it('gets its scale from two places and the length between them, in print millimetres', () => {
    show(SIDE);
    const button = screen.getByRole('button', { name: 'Set its scale by that length' });
    expect(button).toHaveProperty('disabled', true);
    fireEvent.change(screen.getByLabelText('A length known on it, mm'), { target: { value: '30' } });
    fireEvent.click(button);
    draw([
      [0, 0],
      [3, 4],
    ]);
    // 30 mm of the print are 15 of the figure, three times what was drawn.
    expect(acts.setFields).toHaveBeenCalledWith('scale of side.jpg', expect.objectContaining({ id: 5 }), {
      wide: 30,
      across: 3,
      up: 6,
    });
  });

  it('is not scaled by a line seen from its side, and can be turned and taken out', () => {
    show(SIDE);
    fireEvent.change(screen.getByLabelText('A length known on it, mm'), { target: { value: '30' } });
    fireEvent.click(screen.getByRole('button', { name: 'Set its scale by that length' }));
    draw(
      [
        [0, 0],
        [3, 4],
      ],
      [-1, 0, 0],
    );
    expect(acts.setFields).not.toHaveBeenCalled();
    fireEvent.mouseDown(screen.getByRole('combobox', { name: 'Seen from the' }));
    fireEvent.click(screen.getByRole('option', { name: 'left' }));
    expect(acts.setFields).toHaveBeenCalledWith('turned side.jpg', expect.objectContaining({ id: 5 }), {
      seen_from: 'left',
    });
    fireEvent.click(screen.getByText('take it out'));
    expect(acts.removeStep).toHaveBeenCalledWith(5);
  });
});
