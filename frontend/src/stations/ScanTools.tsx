import { useState } from 'react';

import type { BuildRecord, PartRecord } from '../app/client';
import { sourceOf, stepsOf } from '../app/steps';
import { anchor, type Picking } from '../figure/picking';
import type { FigureActs } from '../figure/useFigure';
import { mm } from '../app/units';
import type { Box } from '../chart/overlay';
import { NumberField, numberIn } from './Fields';
import { Trimming } from './Trimming';

interface Props {
  build: BuildRecord;
  part: PartRecord | undefined;
  acts: FigureActs;
  picking: Picking;
  showBox: (box: Box | null) => void;
}

/** What a scan is compared with, and the acts that clean it up, besides those its findings offer. */
export function ScanTools({ build, part, acts, picking, showBox }: Props) {
  const [real, setReal] = useState('');
  const [name, setName] = useState('');
  const source = sourceOf(build);
  const lengths = stepsOf(build, 'set-lengths')[0]?.lengths ?? [];
  const busy = acts.busy || acts.stale;
  const factor = part?.facts.factor ?? 1;
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
  const upright = () =>
    picking.ask({
      says: 'Pick three places of what it stands on',
      count: 3,
      then: (picks) =>
        acts.addStep('set upright by three picks', {
          kind: 'right-axis',
          picks: picks.map((pick) => anchor(pick, source)),
        }),
    });
  const rim = () =>
    picking.ask({
      says: 'Pick a place by the rim',
      count: 1,
      then: (picks) =>
        acts.addStep('a rim smoothed', {
          kind: 'smooth-rims',
          places: picks.map((pick) => anchor(pick, source)),
        }),
    });
  return (
    <>
      {part?.captured && <Captured captured={part.captured} factor={factor} />}
      <h3>Clean it up</h3>
      <ul className="plain-list acts" aria-label="Clean up the scan">
        <li>
          <button className="ruled" disabled={busy} onClick={upright}>
            Set upright by three picks
          </button>
          <button
            className="ruled"
            disabled={busy}
            onClick={() => acts.addStep('rims smoothed', { kind: 'smooth-rims' })}
          >
            Smooth all rims
          </button>
          <button className="ruled" disabled={busy} onClick={rim}>
            Smooth the rim by a pick
          </button>
          <button
            className="ruled"
            disabled={busy}
            onClick={() => acts.addStep('evened out', { kind: 'even' })}
          >
            Even its triangles
          </button>
        </li>
      </ul>
      {part && <Trimming {...{ part, acts, picking, showBox }} />}
      <h3>True size by calipers</h3>
      <div className="fields">
        <div className="fields two">
          <label className="plain-field">
            <span className="soft">What was measured</span>
            <input value={name} maxLength={80} onChange={(event) => setName(event.target.value)} />
          </label>
          <NumberField label="By calipers, mm" text={real} change={setReal} />
        </div>
        <button className="ruled" disabled={busy || numberIn(real) === null} onClick={caliper}>
          Pick its ends on the figure
        </button>
      </div>
    </>
  );
}

/** The points of the scan by their distance from the surface. */
function Captured({ captured, factor }: { captured: NonNullable<PartRecord['captured']>; factor: number }) {
  const most = Math.max(...captured.counts, 1);
  const wide = 380 / captured.counts.length;
  const far = (captured.edges.at(-1) ?? 0) * factor;
  const says =
    `Captured points lie ${(captured.mean * factor).toFixed(3)} mm off on average, 95 in a hundred within ` +
    `${(captured.most * factor).toFixed(3)} mm.`;
  return (
    <>
      <h3>Against what was captured</h3>
      <svg viewBox="0 0 396 86" className="histogram" role="img" aria-label={says}>
        {captured.counts.map((number, k) => (
          <rect
            key={k}
            x={8 + k * wide}
            width={wide - 1.5}
            y={64 - (60 * number) / most}
            height={(60 * number) / most}
          />
        ))}
        <path d="M4 64.5H392M198 64V70" />
        <text x="8" y="80">
          {mm(-far).replace('-', '−')} mm, inside
        </text>
        <text x="388" y="80" textAnchor="end">
          {mm(far)} mm, outside
        </text>
      </svg>
      <p>
        {says} {Math.round(captured.invented * factor * factor).toLocaleString('en')} mm² of the surface
        nobody saw: dark on the chart, and invented.
      </p>
    </>
  );
}
