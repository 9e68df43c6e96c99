import { useState } from 'react';

import type { BuildRecord } from '../../app/client';
import { sourceOf, stepsOf } from '../../app/steps';
import { DoIt } from '../../figure/DoIt';
import { anchor, type Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { NumberField, numberIn } from '../Fields';
import styles from './scan.module.css';

interface Props {
  build: BuildRecord;
  acts: FigureActs;
  picking: Picking;
}

/** Sets the figure upright on what three picks lie in. */
export function Upright({ build, acts, picking }: Props) {
  const source = sourceOf(build);
  const pick = () =>
    picking.ask({
      says: 'Pick three places of what it stands on',
      count: 3,
      then: (picks) =>
        acts.addStep('set upright by three picks', {
          kind: 'right-axis',
          picks: picks.map((place) => anchor(place, source)),
        }),
    });
  return (
    <>
      <p className="why">The three places come to lie level, on the ground.</p>
      <button className="ruled" disabled={acts.busy || acts.stale} onClick={pick}>
        Pick three places
      </button>
    </>
  );
}

/** Smooths the rims of what is open: all of them, or the one by a pick. */
export function Rims({ build, acts, picking }: Props) {
  const source = sourceOf(build);
  const pick = () =>
    picking.ask({
      says: 'Pick a place by the rim',
      count: 1,
      then: (picks) =>
        acts.addStep('a rim smoothed', {
          kind: 'smooth-rims',
          places: picks.map((place) => anchor(place, source)),
        }),
    });
  return (
    <>
      <p className="why">Ragged rims of a scan are drawn straight; nothing else moves.</p>
      <DoIt
        acts={acts}
        label="Smooth all rims"
        change={{ does: 'add', says: 'rims smoothed', step: { kind: 'smooth-rims' } }}
      />
      <button className="ruled" disabled={acts.busy || acts.stale} onClick={pick}>
        Smooth the rim by a pick
      </button>
    </>
  );
}

/** Makes the triangles of a scan alike in size. */
export function Even({ acts }: { acts: FigureActs }) {
  return (
    <>
      <p className="why">Triangles become alike in size; the surface stays where it is.</p>
      <DoIt
        acts={acts}
        label="Even its triangles"
        change={{ does: 'add', says: 'evened out', step: { kind: 'even' } }}
      />
    </>
  );
}

/** Gives a scan its true size by a length that calipers measured. */
export function TrueSize({ build, acts, picking }: Props) {
  const [real, setReal] = useState('');
  const [name, setName] = useState('');
  const source = sourceOf(build);
  const lengths = stepsOf(build, 'set-lengths')[0]?.lengths ?? [];
  const caliper = () =>
    picking.ask({
      says: 'Pick both ends of the length on the figure',
      count: 2,
      then: ([a, b]) => {
        const long = numberIn(real);
        if (!a || !b || long === null) return;
        const length = {
          name: name.trim() || 'a length',
          a: anchor(a, source),
          b: anchor(b, source),
          real: long,
        };
        acts.addStep('size by calipers', { kind: 'set-lengths', lengths: [...lengths, length] });
      },
    });
  return (
    <div className="fields">
      <div className="fields two">
        <label className={styles.field}>
          <span className="soft">What was measured</span>
          <input value={name} maxLength={80} onChange={(event) => setName(event.target.value)} />
        </label>
        <NumberField label="By calipers, mm" text={real} change={setReal} />
      </div>
      <button
        className="ruled"
        disabled={acts.busy || acts.stale || numberIn(real) === null}
        onClick={caliper}
      >
        Pick its ends on the figure
      </button>
    </div>
  );
}
