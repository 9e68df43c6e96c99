import { useContext, useEffect } from 'react';

import { useKeys } from '../app/useKeys';
import { count, mm, signed } from '../app/units';
import { SheetContext, type Change } from './sheet';
import { TakesTable } from './TakesTable';
import { make, useTrial } from './trial';
import type { FigureActs } from './useFigure';

/** Makes a change, or shows first on the chart what it would make. */
export function DoIt({
  acts,
  label,
  change,
}: {
  acts: FigureActs;
  label: string;
  /** None while what is said for it cannot be used. */
  change: Change | null;
}) {
  const trial = useTrial();
  const text = change && JSON.stringify(change);
  const can = !!change && !acts.busy && !acts.stale;
  const seen = trial.of !== null && trial.of === text;
  const { see } = trial;
  // What is shown is what is said now, and goes with what said it.
  useEffect(() => () => see(null), [text, see]);
  const turn = () => can && see(seen ? null : change);
  const doIt = () => can && make(acts, change);
  useKeys({ p: turn, a: doIt });
  return (
    <div className="do-it">
      <button className="ruled" disabled={!can} onClick={doIt}>
        {label}
      </button>
      <button className="plain" disabled={!can} aria-pressed={seen} onClick={turn}>
        <kbd>P</kbd> <u>{seen ? 'as it is' : 'see it first'}</u>
      </button>
      {seen && <Tried />}
    </div>
  );
}

/** Less is not told. */
const LEAST_ML = 0.005;

/** What came of a trial, in numbers. */
function Tried() {
  const { tried, error } = useTrial();
  const sheet = useContext(SheetContext);
  if (error) return <p className="error">{error}</p>;
  if (!tried) return <p className="soft">Trying it …</p>;
  const { ml, triangles, size_mm: size, said, takes } = tried;
  return (
    <>
      <p className="soft" role="status">
        {said} {Math.abs(ml) >= LEAST_ML && `${signed(ml)} ml of the figure, `}
        {triangles !== 0 && `${count(Math.abs(triangles), 'triangle')} ${triangles < 0 ? 'fewer' : 'more'}, `}
        {size.map(mm).join(' x ')} mm. Not done yet.
      </p>
      {takes && sheet && <TakesTable build={sheet.build} ways={[{ says: 'as it would be', takes }]} />}
    </>
  );
}
