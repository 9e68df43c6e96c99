// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, describe, expect, it, vi } from 'vitest';

import type { FigurePage, StepSentence } from '../app/client';
import { EditableNumber, Record } from './Record';

afterEach(cleanup);

function edit(save: (value: number) => void, typed: string, key: string) {
  render(<EditableNumber value={0.6} unit="mm" label="wall" save={save} />);
  fireEvent.click(screen.getByRole('button', { name: 'wall, 0.60 mm; edit' }));
  const input = screen.getByLabelText('wall in mm');
  fireEvent.change(input, { target: { value: typed } });
  fireEvent.keyDown(input, { key });
}

describe('a number in a sentence', () => {
  it('is kept by Enter, with a comma or a point', () => {
    const save = vi.fn();
    edit(save, '0,8', 'Enter');
    expect(save).toHaveBeenCalledExactlyOnceWith(0.8);
  });

  it('is left as it was by Escape, by no change, and while it is no number', () => {
    const save = vi.fn();
    edit(save, '0.8', 'Escape');
    cleanup();
    edit(save, '0.60', 'Enter');
    cleanup();
    for (const wrong of ['', 'thick', '-1']) {
      edit(save, wrong, 'Enter');
      expect(screen.getByLabelText('wall in mm').getAttribute('aria-invalid')).toBe('true');
      cleanup();
    }
    expect(save).not.toHaveBeenCalled();
  });

  it('does not hand its keys to the sheet, where they mean other things', () => {
    const pressed = vi.fn();
    window.addEventListener('keydown', pressed);
    edit(vi.fn(), '7', 'a');
    window.removeEventListener('keydown', pressed);
    expect(pressed).not.toHaveBeenCalled();
  });
});

describe('a sentence in several editions', () => {
  const said = (id: number, sentence: string) =>
    ({
      step: { id, kind: 'stroke', on: true },
      phase: 1,
      rank: 0,
      sentence: [sentence],
      receipt: {},
    }) as unknown as StepSentence;
  const editions = [
    { id: 'e1', name: 'Tabletop' },
    { id: 'e2', name: 'Cabinet' },
  ];
  function panel(over: Partial<FigurePage>) {
    const holdIn = vi.fn();
    const page = {
      id: 4,
      looked: 'e1',
      edition: { form: { mirrored: false } },
      editions,
      differing: [],
      variant: '',
      holds_in: {},
      left_out: {},
      ...over,
    } as unknown as FigurePage;
    const none = vi.fn();
    const steps = [said(1, 'Brought in.'), said(2, 'Thickened.')];
    const acts = {
      editStep: none,
      switchStep: none,
      moveStep: none,
      setEdition: none,
      undo: none,
      redo: none,
    };
    render(
      <MemoryRouter>
        <Record
          page={page}
          steps={steps}
          height={30}
          setup={undefined}
          busy={false}
          holdIn={holdIn}
          {...acts}
        />
      </MemoryRouter>,
    );
    return holdIn;
  }

  it('can be held to the one that is looked at, and given back to all', () => {
    const holdIn = panel({});
    fireEvent.click(screen.getByRole('button', { name: 'Have sentence 3 hold in this edition alone' }));
    expect(holdIn.mock.calls[0]?.[1]).toEqual(['e1']);
    cleanup();
    const back = panel({ holds_in: { 2: ['e1'] } });
    expect(screen.getByText('Tabletop:')).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'Have sentence 3 hold in all editions' }));
    expect(back.mock.calls[0]?.[1]).toEqual([]);
  });

  it('says why it is left out, and offers no switch for it', () => {
    panel({ holds_in: { 2: ['e2'] }, left_out: { 2: 'for other editions' } });
    expect(screen.getByText('left out, for other editions:')).toBeTruthy();
    expect(screen.queryByRole('button', { name: /Switch sentence/ })).toBeNull();
  });

  it('is not asked about where there is one edition', () => {
    panel({ editions: editions.slice(0, 1) } as never);
    expect(screen.queryByRole('button', { name: /Have sentence/ })).toBeNull();
    expect(screen.getByRole('button', { name: 'Switch sentence 3 off' })).toBeTruthy();
  });
});
