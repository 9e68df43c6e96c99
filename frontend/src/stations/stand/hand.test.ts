import { describe, expect, it } from 'vitest';

import type { StepOf } from '../../app/client';
import { actsSaid, heldBy, type SaidAct } from './hand';

const at = (x: number) => ({ point: [x, 0, 0] as [number, number, number], normal: null, source: 'a' });
const said: SaidAct[] = [
  { does: 'add', at: at(1), to: null, radius: 2, mirrored: true },
  { does: 'move', at: at(2), to: at(3), radius: 2, mirrored: false },
  { does: 'forbid', at: at(4), to: null, radius: 5, mirrored: false },
];

describe('acts by hand', () => {
  it('are kept with their places by number, and read back as they were', () => {
    const kept = heldBy(said);
    expect(kept.places).toHaveLength(4);
    expect(kept.acts?.[1]).toMatchObject({ does: 'move', place: 1, to: 2 });
    expect(actsSaid({ kind: 'support', ...kept } as StepOf<'support'>)).toEqual(said);
  });

  it('lose no place when one of them is left out', () => {
    const kept = heldBy(said.filter((_, k) => k !== 1));
    expect(actsSaid({ kind: 'support', ...kept } as StepOf<'support'>)).toEqual([said[0], said[2]]);
  });

  it('are none of a step that has none, or of no step', () => {
    expect(actsSaid(undefined)).toEqual([]);
    expect(actsSaid({ kind: 'support' } as StepOf<'support'>)).toEqual([]);
  });
});
