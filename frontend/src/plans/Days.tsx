import { useState } from 'react';

import type { PlanTold, WantedPlan } from '../app/client';
import { after, AN_HOUR, clock, dayClock, daysOf, shareOf } from './days';
import { DayList } from './DayList';
import { MachineLine } from './MachineLine';
import styles from './plans.module.css';
import { Tide } from './Tide';
import type { PlanActs } from './usePlan';

type Move = NonNullable<WantedPlan['moves']>[number];

/** The days, a line a machine, tasks to be moved; and what is to be done by hand on one of them. */
export function Days({
  told,
  plan,
  acts,
}: {
  told: PlanTold;
  plan: WantedPlan;
  acts: Pick<PlanActs, 'busy' | 'change'>;
}) {
  const [looked, look] = useState<number | null>(null);
  const [draft, setDraft] = useState<Move | null>(null);
  const { schedule, machines } = told;
  if (!schedule) return null;
  const days = daysOf(schedule);
  const now = shareOf(new Date().toISOString(), days);
  const inSight = now >= 0 && now < 1;
  const today = inSight ? Math.floor(now * days.length) : 0;
  const at = Math.min(looked ?? today, days.length - 1);
  const day = days[at];
  const says = (task: string) => told.tasks.find(({ id }) => id === task)?.says ?? task;
  const moves = (plan.moves ?? []).filter(({ task }) => told.tasks.some(({ id }) => id === task));
  const without = (task: string) => (plan.moves ?? []).filter((one) => one.task !== task);
  const keep = () => {
    if (!draft) return;
    acts.change(`moved: ${says(draft.task)}`, { moves: [...without(draft.task), draft] });
    setDraft(null);
  };
  const begins = (task: string) => schedule.booked.find((one) => one.task === task)?.begin ?? '';
  const shift = (minutes: number) =>
    draft && setDraft({ ...draft, not_before: after(draft.not_before ?? begins(draft.task), minutes) });
  const lines = [
    ...machines.map(({ id, name }) => ({ id, name: name || id })),
    { id: null, name: 'hands alone' },
  ];
  const used = lines.filter(({ id }) => schedule.booked.some(({ machine }) => machine === id));
  return (
    <section aria-label="Days">
      <div className={styles.title}>
        <h2>Days</h2>
        <span className="soft">
          drag a bar, or choose it and use the arrows: by an hour, up and down to another machine; hatched:
          nobody is there
        </span>
      </div>
      <div className={styles.days}>
        <div className={styles.line}>
          <span />
          <div className={styles.dates}>
            {days.map((one, k) => (
              <button
                key={one.getTime()}
                className="plain"
                aria-pressed={k === at}
                style={{ width: `${100 / days.length}%` }}
                onClick={() => look(k)}
              >
                {one.toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric' })}
              </button>
            ))}
          </div>
        </div>
        {used.map(({ id, name }) => (
          <MachineLine
            key={name}
            told={told}
            schedule={schedule}
            days={days}
            machine={id}
            name={name}
            draft={draft}
            move={setDraft}
            keep={keep}
          />
        ))}
        <Tide told={told} days={days} />
        {inSight && (
          <div className={styles.now} style={{ left: `calc(130px + ${100 * now}% - ${1.3 * now * 100}px)` }}>
            <i>now</i>
          </div>
        )}
      </div>
      {draft && (
        <p className={styles.turns} role="status">
          <b>{says(draft.task)}</b>
          {draft.not_before && ` not before ${dayClock(draft.not_before)}`}
          {draft.on && ` on ${machines.find(({ id }) => id === draft.on)?.name ?? draft.on}`}
          <button className="plain" onClick={() => shift(-AN_HOUR)}>
            <u>an hour earlier</u>
          </button>
          <button className="plain" onClick={() => shift(AN_HOUR)}>
            <u>an hour later</u>
          </button>
          <button className="ruled" disabled={acts.busy} onClick={keep}>
            Plan it so
          </button>
          <button className="plain" onClick={() => setDraft(null)}>
            <u>leave it where it was</u>
          </button>
        </p>
      )}
      {moves.map((one) => (
        <p key={one.task} className={styles.turns}>
          Moved by hand: {says(one.task)}
          {one.not_before && `, not before ${dayClock(one.not_before)}`}
          {one.on && `, on ${machines.find(({ id }) => id === one.on)?.name ?? one.on}`}
          <button
            className="plain"
            disabled={acts.busy}
            aria-label={`Leave ${says(one.task)} to the plan`}
            onClick={() => acts.change(`left to the plan: ${says(one.task)}`, { moves: without(one.task) })}
          >
            <u>leave it to the plan</u>
          </button>
        </p>
      ))}
      {schedule.booked
        .filter(({ waits, machine }) => waits && machine)
        .slice(0, 3)
        .map((one) => (
          <p key={one.task} className="soft">
            {says(one.task)} ends at {clock(one.ends)} while nobody is there, and keeps{' '}
            {machines.find(({ id }) => id === one.machine)?.name} until {dayClock(one.over)}.
          </p>
        ))}
      {day && (
        <DayList
          told={told}
          day={day}
          plan={plan}
          acts={acts}
          move={(task) => setDraft({ task, not_before: begins(task), on: null })}
        />
      )}
    </section>
  );
}
