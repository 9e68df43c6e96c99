// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, FieldsOf, PartRecord, Step } from '../../app/client';
import type { HandlesAsked } from '../../chart/handles';
import { NOTHING } from '../../chart/handles';
import type { Asked, Pick } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { Groups, Placed } from './Placed';
import { unasked } from '../../testing/unasked';

const setFields = vi.fn();
const switchGroup = vi.fn();
const drawPart = vi.fn();
let asked: Asked | null = null;
let handles: HandlesAsked | null = null;
const picking = unasked((next: Asked) => (asked = next));
const FRAME = [
  [0, 0, 0],
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
const pick: Pick = { point: [1, 2, 3], normal: [0, 0, 1], view: [0, -1, 0] };

function standing(name: string, more: object = {}) {
  const plain = {
    x: 2,
    y: 0,
    z: 1,
    turn: 350,
    tip: 0,
    roll: 0,
    grow: 1,
    sunk: 0,
    mirrored: false,
    handed: false,
    copies: 1,
    pair: false,
  };
  return { kind: 'add-form', id: 3, on: true, name, group: '', rests_on: null, ...plain, ...more };
}

function show(...steps: { name: string }[]) {
  const names = ['figure', ...steps.map(({ name }) => name)];
  const build = {
    key: 'k',
    parts: names.map((part) => ({ display: `${part}.bin`, facts: { part, factor: 2 } })),
    steps: [{ kind: 'bring-in', on: true, source: 's' }, ...steps].map((step) => ({ step })),
  } as unknown as BuildRecord;
  const part = { source: 's', facts: { part: 'mast', frame: FRAME } } as unknown as PartRecord;
  const acts = { setFields, switchGroup, busy: false, stale: false } as unknown as FigureActs;
  render(
    <>
      <Placed {...{ build, part, acts, picking, drawPart }} showHandles={(now) => (handles = now)} />
      <Groups build={build} acts={acts} />
    </>,
  );
}

beforeEach(() => {
  vi.clearAllMocks();
  asked = handles = null;
});
afterEach(cleanup);

describe('a bit', () => {
  it('is moved by numbers in print millimetres, and keeps the digits of those not touched', () => {
    show(standing('horn', { x: 1 / 3 }));
    const across = screen.getByLabelText('Across, mm');
    expect((across as HTMLInputElement).value).toBe('0.667');
    fireEvent.change(screen.getByLabelText('Up, mm'), { target: { value: '-3' } });
    fireEvent.click(screen.getByRole('button', { name: 'Stand it so' }));
    const [says, { id }, values] = setFields.mock.calls[0] as [string, Step, FieldsOf<Step>];
    expect([says, id]).toEqual(['moved horn', 3]);
    expect(values).toEqual({ z: -1.5, mirrored: false, handed: false, pair: false, group: '' });
    fireEvent.change(screen.getByLabelText('Grown, times'), { target: { value: '0' } });
    expect(screen.getByRole('button', { name: 'Stand it so' })).toHaveProperty('disabled', true);
    fireEvent.change(screen.getByLabelText('Grown, times'), { target: { value: '1' } });
    fireEvent.change(screen.getByLabelText('Times round the upright'), { target: { value: '2.5' } });
    expect(screen.getByRole('button', { name: 'Stand it so' })).toHaveProperty('disabled', true);
    fireEvent.change(screen.getByLabelText('Times round the upright'), { target: { value: '5' } });
    fireEvent.click(screen.getByRole('button', { name: 'Stand it so' }));
    expect(setFields.mock.calls[1]?.[2]).toMatchObject({ copies: 5 });
  });

  it('has handles while its act is open, over the part it may sit on', () => {
    show(standing('horn'));
    expect(handles).toMatchObject({ name: 'horn', display: 'horn.bin' });
    expect(drawPart).toHaveBeenCalledWith('figure');
    handles?.done({ ...NOTHING, by: [1, 0, -1], turn: 20, grow: 1.5 });
    expect(setFields).toHaveBeenLastCalledWith('moved horn', expect.objectContaining({ id: 3 }), {
      x: 3,
      y: 0,
      z: 0,
      turn: 10,
      grow: 1.5,
    });
    handles?.done({ ...NOTHING, seat: pick });
    expect(setFields.mock.calls.at(-1)?.[2]).toEqual({
      rests_on: { point: [1, 2, 3], normal: [0, 0, 1], source: 's', host: 'mast', frame: FRAME },
      x: 0,
      y: 0,
      z: 0,
    });
    cleanup();
    expect(handles).toBeNull();
  });

  it('is put on the skin by a pick and let go again where it sat', () => {
    show(standing('horn', { rests_on: { point: [7, 8, 9] }, sunk: 0.5 }));
    fireEvent.click(screen.getByRole('button', { name: 'Pick where it sits on the skin' }));
    if (asked && 'count' in asked) asked.then([pick]);
    expect(setFields.mock.calls[0]?.[0]).toBe('horn put on the skin');
    fireEvent.click(screen.getByRole('button', { name: 'Stand it upright by itself' }));
    expect(setFields.mock.calls[1]?.[2]).toEqual({ rests_on: null, sunk: 0, x: 7, y: 8, z: 9 });
  });

  it('is switched with its group', () => {
    show(standing('left fin', { group: 'fins' }), standing('right fin', { group: 'fins' }), standing('mast'));
    fireEvent.click(screen.getByRole('button', { name: 'switch off' }));
    expect(switchGroup).toHaveBeenCalledWith('fins', false);
  });
});
