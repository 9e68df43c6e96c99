import { useState } from 'react';

import type { PlanTold } from '../app/client';
import { byHandOn, clock, daysOf, shareOf, type Booked } from './days';
import styles from './plans.module.css';

/** The days, a line a machine; and what is to be done by hand on one of them. */
export function Days({ told }: { told: PlanTold }) {
  const [looked, look] = useState(0);
  const { schedule, machines } = told;
  if (!schedule) return null;
  const days = daysOf(schedule);
  const day = days[Math.min(looked, days.length - 1)];
  const says = new Map(told.tasks.map(({ id, says: text }) => [id, text || id]));
  const lines = [...machines.map(({ id, name }) => ({ id, name: name || id })), { id: null, name: 'hands' }];
  return (
    <section aria-label="Days">
      <h2>Days</h2>
      <div className={styles.days}>
        <div className={styles.line}>
          <span />
          <div className={styles.dates}>
            {days.map((one, k) => (
              <button
                key={one.getTime()}
                className="plain"
                aria-pressed={one === day}
                style={{ width: `${100 / days.length}%` }}
                onClick={() => look(k)}
              >
                {one.toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric' })}
              </button>
            ))}
          </div>
        </div>
        {lines.map(({ id, name }) => (
          <div key={name} className={styles.line}>
            <span>{name}</span>
            <div className={styles.track} style={{ backgroundSize: `${100 / days.length}% 100%` }}>
              {schedule.booked
                .filter(({ machine }) => machine === id)
                .map((one) => (
                  <Bar key={one.task} one={one} says={says.get(one.task) ?? one.task} days={days} />
                ))}
            </div>
          </div>
        ))}
      </div>
      {day && <ByHand told={told} day={day} />}
    </section>
  );
}

function Bar({ one, says, days }: { one: Booked; says: string; days: Date[] }) {
  const left = shareOf(one.begin, days);
  const right = shareOf(one.over, days);
  const waits = one.waits ? '; it ends while nobody is there, and keeps its machine until somebody is' : '';
  const late = one.late_minutes > 0 ? `; ${(one.late_minutes / 60).toFixed(1)} h late` : '';
  return (
    <div
      className={styles.bar}
      data-late={one.late_minutes > 0 || undefined}
      data-waits={one.waits || undefined}
      style={{ left: `${100 * left}%`, width: `${Math.max(100 * (right - left), 0.25)}%` }}
      title={`${says}: ${clock(one.begin)} to ${clock(one.over)}${waits}${late}`}
    >
      <span>{says}</span>
    </div>
  );
}

/** What hands do on a day, in the order of the clock. */
function ByHand({ told, day }: { told: PlanTold; day: Date }) {
  const rows = byHandOn(told, day);
  const name = day.toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' });
  return (
    <>
      <h3>By hand on {name}</h3>
      {rows.length ? (
        <ol className={styles.hands} aria-label={`By hand on ${name}`}>
          {rows.map(({ at, says }) => (
            <li key={`${at} ${says}`}>
              <b>{clock(at)}</b> {says}
            </li>
          ))}
        </ol>
      ) : (
        <p className="soft">Nothing: what runs runs by itself.</p>
      )}
    </>
  );
}
