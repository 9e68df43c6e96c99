// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import type { BuildRecord, PartRecord } from '../../app/client';
import type { Asked, Pick } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { AddForm } from './AddForm';
import { JoinParts } from './JoinParts';
import { StampTools } from './StampTools';
import { StrokeTools } from './StrokeTools';
import { unasked } from '../../testing/unasked';

const addStep = vi.fn();
const RESIN = {
  material: { name: 'Grey resin' },
  setting: { walls: { pin: { caution: 0.7 } } },
} as never;
const sent: { path: string; body: unknown }[] = [];
let shelf: object[] = [];
let asked: Asked | null = null;
const picking = unasked((next: Asked) => {
  asked = next;
});
vi.mock('../../app/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: () => Promise.resolve({ data: shelf, response: { ok: true } }),
    POST: (path: string, { body }: { body: unknown }) => {
      sent.push({ path, body });
      return Promise.resolve({ data: {}, response: { ok: true } });
    },
  },
}));
const pick = (...picks: Pick[]) => asked && 'then' in asked && asked.then(picks);
const place = (x: number): Pick => ({ point: [x, 0, 4], normal: [0, 0, 1], view: [0, -1, 0] });
const part = (name: string) => ({ source: 's', facts: { part: name, factor: 0.5 } }) as unknown as PartRecord;

function panel(names: string[], stale = false) {
  const build = {
    parts: names.map(part),
    meetings: [{ bit: 'knob', host: 'figure', overlap: 1.25, neck: 6.7, neck_width: 2.9, sealed: 3.2 }],
    steps: [{ kind: 'bring-in', values: { source: 's' } }],
  } as unknown as BuildRecord;
  const acts = { addStep, busy: false, stale } as unknown as FigureActs;
  const all = { number: 1, build, acts, picking, part: build.parts[0] };
  render(
    <QueryClientProvider client={new QueryClient()}>
      <AddForm {...all} />
      {names.length > 1 && <JoinParts {...all} setup={RESIN} />}
      <StampTools {...all} />
      <StrokeTools {...all} />
    </QueryClientProvider>,
  );
}

const type = (label: string, text: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
const choose = (label: string, option: string) => {
  fireEvent.mouseDown(screen.getByRole('combobox', { name: label }));
  fireEvent.click(screen.getByRole('option', { name: option }));
};

beforeEach(() => {
  vi.clearAllMocks();
  asked = null;
  sent.length = 0;
  shelf = [];
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe('a first form', () => {
  it('is said in print millimetres and kept in those of the figure', () => {
    panel(['figure']);
    type('wide, mm', '3');
    type('Sunk into the skin, mm', '0,5');
    choose('How many of it', 'one and another, the right way round');
    fireEvent.click(screen.getByRole('button', { name: 'Pick where it stands' }));
    pick(place(2));
    expect(addStep.mock.calls[0]?.[1]).toMatchObject({
      kind: 'add-form',
      form: 'sphere',
      name: 'sphere',
      wide: 6,
      sunk: 1,
      pair: true,
      handed: true,
      rests_on: { point: [2, 0, 4], source: 's' },
    });
  });

  it('wants its sizes, and a tube as many places as are asked for', () => {
    panel(['figure']);
    choose('Form', 'tube');
    type('Places of its curve', '1');
    const along = screen.getByRole('button', { name: 'Pick its curve on the figure' });
    expect(along).toHaveProperty('disabled', true);
    type('Places of its curve', '2');
    type('Sunk into the skin, mm', '1');
    fireEvent.click(along);
    expect(asked).toMatchObject({ count: 2 });
    pick(place(0), place(5));
    expect(addStep.mock.calls[0]?.[1]).toMatchObject({
      curve: [
        [0, 0, 2],
        [5, 0, 2],
      ],
    });
    type('Places of its curve', '4');
    fireEvent.click(screen.getByRole('button', { name: 'Draw its curve on the figure' }));
    if (asked && 'brush' in asked) asked.brush.ended(Array.from({ length: 100 }, (_, k) => place(k)));
    const { curve } = addStep.mock.calls[1]?.[1] as { curve: number[][] };
    expect(curve.map(([x]) => x)).toEqual([0, 33, 66, 99]);
    expect(picking.leave).toHaveBeenCalled();
  });
});

describe('joining', () => {
  it('is offered where there are two parts, and never of one to itself', () => {
    panel(['figure', 'knob']);
    const join = screen.getByRole('button', { name: 'Join them' });
    choose('Part to join', 'figure');
    expect(join).toHaveProperty('disabled', true);
    choose('Part to join', 'knob');
    type('Round in the corner, mm', '0');
    fireEvent.click(join);
    expect(addStep).toHaveBeenCalledWith('joined knob to figure', {
      kind: 'join-parts',
      host: 'figure',
      bit: 'knob',
      blend: 0,
    });
  });

  it('says before how they would hold, against what the material wants', () => {
    panel(['figure', 'knob', 'tail']);
    const said = screen.getByText(/As they stand they reach/).textContent;
    expect(said).toContain(
      '1.3 mm into each other; the neck is 2.9 mm thick, 6.7 mm², and grey resin wants 0.70 mm',
    );
    expect(said).toContain('A cavity of 3.2 mm³ would be sealed in.');
    choose('Part to join', 'tail');
    expect(screen.getByText(/do not reach into each other/)).toBeTruthy();
  });

  it('leaves them overlapping where that is asked for, and says what it costs', () => {
    panel(['figure', 'knob']);
    choose('Joined into', 'one part, left overlapping');
    expect(screen.getByText(/what is inside stays/)).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'Join them' }));
    expect(addStep.mock.calls[0]?.[1]).toEqual({
      kind: 'join-parts',
      host: 'figure',
      bit: 'knob',
      overlapping: true,
    });
  });

  it('is not offered of a single part', () => {
    panel(['figure']);
    expect(screen.queryByRole('button', { name: 'Join them' })).toBeNull();
  });
});

describe('a stamp', () => {
  it('is a text, seen along the skin unless asked otherwise', () => {
    panel(['figure', 'knob']);
    const press = screen.getByRole('button', { name: 'Pick its place on the figure' });
    expect(press).toHaveProperty('disabled', true);
    type('Text instead of a picture', 'No. 7');
    type('Turned, ° anticlockwise', '400');
    expect(press).toHaveProperty('disabled', true);
    type('Turned, ° anticlockwise', '');
    choose('Strokes raised or sunk', 'sunk');
    choose('Pressed in the direction', 'as it is looked at');
    fireEvent.click(press);
    pick(place(1));
    expect(addStep.mock.calls[0]?.[1]).toMatchObject({
      kind: 'stamp',
      scope: 'figure',
      name: 'No. 7',
      text: 'No. 7',
      view: [0, -1, 0],
      sunk: true,
      turn: 0,
      inverted: false,
    });
  });

  it('is a picture once it was taken, and says why one was not', async () => {
    const answer = { ok: false, json: () => Promise.resolve({ detail: 'page.svg: not a picture.' }) };
    vi.stubGlobal(
      'fetch',
      vi.fn(() => Promise.resolve(answer)),
    );
    panel(['figure']);
    const take = () =>
      fireEvent.change(screen.getByLabelText('A picture for the stamp'), {
        target: { files: [new File(['x'], 'mark.png')] },
      });
    take();
    await waitFor(() => expect(screen.getByRole('alert').textContent).toBe('page.svg: not a picture.'));
    const kept = { sha256: 'h', file_name: 'mark.png', ratio: 0.5, narrowest: 0.02 };
    vi.stubGlobal(
      'fetch',
      vi.fn(() => Promise.resolve({ ok: true, json: () => Promise.resolve(kept) })),
    );
    take();
    await waitFor(() =>
      expect(screen.getByText(/strokes will be 0\.16 mm wide, it 4\.0 mm high/)).toBeTruthy(),
    );
    fireEvent.click(screen.getByRole('button', { name: 'Pick its place on the figure' }));
    pick(place(1));
    expect(addStep.mock.calls[0]?.[1]).toMatchObject({ picture: 'h', name: 'mark.png', view: null });
    fireEvent.click(screen.getByText('put it on the shelf of bits'));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]).toEqual({
      path: '/api/stamps',
      body: { picture: 'h', file_name: 'mark.png', figure: 1, name: 'mark', tags: ['stamp'] },
    });
  });

  it('is one of the shelf, and a text in the letters chosen', async () => {
    const stamp = { sha256: 's', file_name: 'reeds.svg', ratio: 1, narrowest: 0.1 };
    shelf = [
      { id: 4, name: 'horn', stamp: null, terms: 'CC0' },
      { id: 5, name: 'reeds', stamp, terms: 'CC BY 4.0' },
    ];
    panel(['figure']);
    type('Text instead of a picture', 'II');
    choose('Font of the text', 'italic');
    fireEvent.click(screen.getByRole('button', { name: 'Pick its place on the figure' }));
    pick(place(1));
    expect(addStep.mock.calls[0]?.[1]).toMatchObject({ text: 'II', font: 'italic' });
    await screen.findByRole('combobox', { name: 'Stamp of the shelf instead' });
    choose('Stamp of the shelf instead', 'reeds, CC BY 4.0');
    expect(screen.queryByText('put it on the shelf of bits')).toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'Pick its place on the figure' }));
    pick(place(2));
    expect(addStep.mock.calls[1]?.[1]).toMatchObject({ picture: 's', name: 'reeds.svg' });
    expect(addStep.mock.calls[1]?.[1]).not.toHaveProperty('text');
  });
});

describe('a stroke', () => {
  it('is kept with its samples, in shares where the brush has no depth', () => {
    panel(['figure']);
    fireEvent.click(screen.getByRole('button', { name: 'Take the brush up' }));
    if (asked && 'brush' in asked) asked.brush.ended([place(0), place(1)]);
    expect(addStep.mock.calls[0]?.[1]).toMatchObject({
      kind: 'stroke',
      tool: 'smooth',
      share: 0.5,
      radius: 2,
    });
    expect((addStep.mock.calls[0]?.[1] as { places: object[] }).places).toHaveLength(2);
    choose('Brush', 'raise');
    choose('Sides it works on', 'both sides of the middle');
    fireEvent.click(screen.getByRole('button', { name: 'Once, at a place' }));
    pick(place(3));
    expect(addStep.mock.calls[1]?.[1]).toMatchObject({ tool: 'raise', amount: 0.1, mirrored: true });
    type('By, mm at a time', '0');
    expect(screen.getByRole('button', { name: 'Take the brush up' })).toHaveProperty('disabled', true);
  });
});
