import { useState } from 'react';
import { Link } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import { JobLine } from '../app/JobLine';
import { useKeys } from '../app/useKeys';
import { SheetHead } from '../shelf/SheetHead';
import { Begun } from './Begun';
import { Days } from './Days';
import { dayClock } from './days';
import { Hours } from './Hours';
import { Plate } from './Plate';
import styles from './plans.module.css';
import { Sums } from './Sums';
import { usePlan } from './usePlan';
import { Wanted } from './Wanted';
import { WinTime } from './WinTime';

/** Plates and days: what is printed together, what it all takes, and when it is done. */
export default function PlansPage() {
  const acts = usePlan();
  const { view, planned, job, planning, error, busy, undo, redo } = acts;
  const [shown, setShown] = useState(1);
  const told = planned?.told;
  const plate = told?.plates.find(({ number }) => number === shown) ?? told?.plates[0];
  const shift = useShift(planned?.name, told?.schedule?.ready);
  useKeys({
    u: () => view?.can_undo && !busy && undo(),
    U: () => view?.can_redo && !busy && redo(),
  });
  return (
    <div className="page">
      <SheetHead name="plates and days">
        <button className="plain" disabled={!view?.can_undo || busy} onClick={undo}>
          <kbd>U</kbd> <u>undo</u>
        </button>
        <button className="plain" disabled={!view?.can_redo || busy} onClick={redo}>
          <u>redo</u>
        </button>
        <Link to="/stock">Stock</Link>
        {told?.schedule && <a href={`/api/plans/${planned?.name}/days.ics`}>days as a calendar, ICS</a>}
      </SheetHead>
      <main className={`sheet ${styles.sheet}`} aria-busy={planning}>
        <ErrorLine says={error} />
        {planning && <JobLine job={job} />}
        {shift && (
          <p role="status" className={styles.shift}>
            {shift}
          </p>
        )}
        <div className={styles.above}>
          <section aria-label="Plates">
            {plate && told && planned ? (
              <Plate
                key={`${planned.name} ${plate.number}`}
                name={planned.name}
                plate={plate}
                plates={told.plates}
                show={setShown}
                acts={acts}
              />
            ) : (
              <>
                <h2>No plate yet</h2>
                <p className="soft">
                  Say what is to be printed. Parts are laid on plates as they stand, with their supports, and
                  the days it takes are added up.
                </p>
              </>
            )}
          </section>
          <section aria-label="What is wanted and what it takes">
            {view && <Wanted plan={view.plan} acts={acts} />}
            {view && <Begun begun={view.begun} />}
            {told && <Sums told={told} due={view?.plan.due ?? null} />}
            {told?.sums && <WinTime key={planned?.name} />}
          </section>
        </div>
        {told?.schedule && view && <Days told={told} plan={view.plan} acts={acts} />}
        <ErrorLine says={told?.why} />
        <section aria-label="Hours worked" className={styles.worked}>
          <Hours told={told ?? null} />
        </section>
      </main>
    </div>
  );
}

/** In words, how much sooner or later all is ready than before the last change. */
function useShift(name: string | undefined, ready: string | undefined): string {
  const [seen, setSeen] = useState<{ name: string; ready: string; says: string } | null>(null);
  if (name && ready && seen?.name !== name) {
    const hours = seen ? (Date.parse(ready) - Date.parse(seen.ready)) / 3_600_000 : 0;
    const far = `${Math.abs(hours).toFixed(1)} h ${hours > 0 ? 'later' : 'sooner'}`;
    const says = Math.abs(hours) >= 0.25 ? `Ready ${dayClock(ready)} now, ${far} than before.` : '';
    setSeen({ name, ready, says });
  }
  return seen?.says ?? '';
}
