import type { PlanTold, WantedPlan } from '../app/client';
import { byHandOn, clock } from './days';
import styles from './plans.module.css';
import type { PlanActs } from './usePlan';

const OF_A_PROOF = /^(wash|cure|clean)-proof-/;

/** What hands do on a day, in the order of the clock; what is done to a print that was begun can be ticked. */
export function DayList({
  told,
  day,
  plan,
  acts,
  move,
}: {
  told: PlanTold;
  day: Date;
  plan: WantedPlan;
  acts: Pick<PlanActs, 'busy' | 'change'>;
  /** Begins to move a task. */
  move: (task: string) => void;
}) {
  const rows = byHandOn(told, day);
  const name = day.toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' });
  return (
    <>
      <h3>By hand on {name}</h3>
      {rows.length ? (
        <ol className={styles.hands} aria-label={`By hand on ${name}`}>
          {rows.map(({ at, says, task, last }) => (
            <li key={`${at} ${task} ${says}`}>
              <b>{clock(at)}</b> {says}
              {(!last || !told.tasks.find(({ id }) => id === task)?.hands_after) && (
                <button className="plain" aria-label={`Move: ${says}`} onClick={() => move(task)}>
                  {' '}
                  <u>move</u>
                </button>
              )}
              {OF_A_PROOF.test(task) && (
                <button
                  className="plain"
                  disabled={acts.busy}
                  aria-label={`Done: ${says}`}
                  onClick={() => acts.change(`done: ${says}`, { done: [...(plan.done ?? []), task] })}
                >
                  {' '}
                  <u>done</u>
                </button>
              )}
            </li>
          ))}
        </ol>
      ) : (
        <p className="soft">Nothing: what runs runs by itself.</p>
      )}
    </>
  );
}
