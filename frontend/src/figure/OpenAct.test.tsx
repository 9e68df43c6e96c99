// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';

import type { StationAct } from '../stations/station';
import { ActList } from './ActList';
import { DoIt } from './DoIt';
import { OpenAct } from './OpenAct';
import { SheetContext, type Change, type Sheet } from './sheet';
import { TrialContext, type Trial } from './trial';
import { useOpenAct } from './useOpenAct';

const addStep = vi.fn();
const tint = vi.fn();
const sheet = { acts: { addStep, busy: false, stale: false } } as unknown as Sheet;
const EVEN: Change = { does: 'add', says: 'evened out', step: { kind: 'even' } };
const ACTS: StationAct[] = [
  { name: 'Tint it', costs: 'nothing', does: tint },
  {
    name: 'Even it',
    costs: 'a new mesh',
    fields: ({ acts }) => <DoIt acts={acts} label="Even" change={EVEN} />,
  },
  {
    name: 'Brush it',
    costs: 'a sentence a stroke',
    fields: () => <input aria-label="Radius" />,
    stays: true,
  },
];

function Station({ changes = 1, acts = ACTS, turnedTo = 0 }) {
  const { act, open, close } = useOpenAct(acts, { station: 'bring-in', figure: 1, changes });
  return (
    <SheetContext value={sheet}>
      {act ? (
        <OpenAct act={act} close={close} />
      ) : (
        <ActList acts={acts} open={(one) => (one.does ? one.does() : open(one))} turnedTo={turnedTo} />
      )}
    </SheetContext>
  );
}
const press = (name: RegExp | string) => fireEvent.click(screen.getByRole('button', { name }));

beforeEach(() => vi.clearAllMocks());
afterEach(cleanup);

it('an act opens alone with the focus on what it asks for, and closes once the figure has changed', () => {
  const { rerender } = render(<Station />);
  press(/Even it/);
  expect(screen.queryByText('Brush it')).toBeNull();
  expect(document.activeElement?.textContent).toBe('Even');
  press('Even');
  expect(addStep).toHaveBeenCalledExactlyOnceWith('evened out', { kind: 'even' });
  expect(screen.queryByText('Brush it')).toBeNull();
  rerender(<Station changes={2} />);
  expect(screen.getByText('Brush it')).toBeTruthy();
});

it('one that stays is open until it is left, or can no longer be done', () => {
  const { rerender } = render(<Station />);
  press(/Brush it/);
  rerender(<Station changes={2} />);
  expect(document.activeElement).toBe(screen.getByLabelText('Radius'));
  press(/back to the list/);
  press(/Brush it/);
  rerender(<Station changes={2} acts={ACTS.slice(0, 2)} />);
  expect(screen.getByText('Even it')).toBeTruthy();
});

it('one without fields is done at once, and the keys turn to the list', () => {
  const { rerender } = render(<Station />);
  press(/Tint it/);
  expect(tint).toHaveBeenCalledOnce();
  expect(screen.getByText('Even it')).toBeTruthy();
  rerender(<Station turnedTo={1} />);
  expect(document.activeElement?.textContent).toContain('Tint it');
});

it('a change is seen first, and no longer once something else is said', () => {
  const see = vi.fn();
  const trial = (over: Partial<Trial>): Trial => ({ of: null, see, tried: null, error: '', ...over });
  const shown = (change: Change | null, now: Trial) => (
    <TrialContext value={now}>
      <DoIt acts={sheet.acts} label="Even" change={change} />
    </TrialContext>
  );
  const { rerender, unmount } = render(shown(EVEN, trial({})));
  fireEvent.keyDown(document.body, { key: 'p' });
  expect(see).toHaveBeenLastCalledWith(EVEN);
  const of = JSON.stringify(EVEN);
  rerender(shown(EVEN, trial({ of })));
  expect(screen.getByText('Trying it …')).toBeTruthy();
  const tried = {
    parts: [],
    size_mm: [1, 2, 3] as [number, number, number],
    ml: -1.5,
    triangles: 1,
    said: 'Evened.',
  };
  rerender(shown(EVEN, trial({ of, tried })));
  expect(screen.getByRole('status').textContent).toBe(
    'Evened. −1.50 ml of the figure, 1 triangle more, 1.0 x 2.0 x 3.0 mm. Not done yet.',
  );
  rerender(shown({ ...EVEN, says: 'otherwise' }, trial({ of, tried })));
  expect(see).toHaveBeenLastCalledWith(null);
  expect(screen.queryByRole('status')).toBeNull();
  rerender(shown(null, trial({})));
  expect(screen.getByRole('button', { name: 'Even' })).toHaveProperty('disabled', true);
  see.mockClear();
  unmount();
  expect(see).toHaveBeenCalledWith(null);
});
