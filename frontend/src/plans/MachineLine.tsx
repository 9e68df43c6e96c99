import { useRef } from 'react';

import type { PlanTold, WantedPlan } from '../app/client';
import { after, AN_HOUR, clock, momentAt, shareOf, type Booked } from './days';
import styles from './plans.module.css';

type Move = NonNullable<WantedPlan['moves']>[number];
type Schedule = NonNullable<PlanTold['schedule']>;

/** Share of the days from which on a bar is wide enough to be taken hold of; shorter ones are moved from the list. */
const WIDE = 0.024;

/** What one machine, or hands alone, does over some days: bars to be moved by mouse and keys. */
export function MachineLine({
  told,
  schedule,
  days,
  machine,
  name,
  draft,
  move,
  keep,
}: {
  told: PlanTold;
  schedule: Schedule;
  days: Date[];
  machine: string | null;
  name: string;
  draft: Move | null;
  move: (to: Move | null) => void;
  keep: () => void;
}) {
  const track = useRef<HTMLDivElement>(null);
  const drag = useRef<{ task: string; x: number; begin: number } | null>(null);
  const onIt = (one: Booked) => {
    const on = draft?.task === one.task ? draft.on : null;
    return (on ?? one.machine) === machine;
  };
  const dragTo = (event: React.PointerEvent) => {
    const held = drag.current;
    const wide = track.current?.getBoundingClientRect().width;
    if (!held || !wide) return;
    const share = held.begin + (event.clientX - held.x) / wide;
    move({ task: held.task, not_before: momentAt(Math.max(share, 0), days), on: draft?.on ?? null });
  };
  const press = (event: React.KeyboardEvent, one: Booked) => {
    const task = told.tasks.find(({ id }) => id === one.task);
    const machines = task?.machines ?? [];
    const from = draft?.task === one.task ? draft : { task: one.task, not_before: null, on: null };
    const on = from.on ?? one.machine;
    const by = (minutes: number) =>
      move({ ...from, not_before: after(from.not_before ?? one.begin, minutes) });
    const other = (step: number) => {
      const next = machines[(machines.indexOf(on ?? '') + step + machines.length) % machines.length];
      if (machines.length > 1 && next) move({ ...from, on: next });
    };
    const acts: Record<string, () => void> = {
      ...{ ArrowLeft: () => by(-AN_HOUR), ArrowRight: () => by(AN_HOUR) },
      ...{ ArrowUp: () => other(-1), ArrowDown: () => other(1) },
      ...{ Enter: keep, Escape: () => move(null) },
    };
    const act = acts[event.key];
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  return (
    <div className={styles.line}>
      <span>{name}</span>
      <div
        ref={track}
        className={styles.track}
        style={{ backgroundSize: `${100 / days.length}% 100%` }}
        onPointerMove={dragTo}
        onPointerUp={() => (drag.current = null)}
        onPointerLeave={() => (drag.current = null)}
      >
        <Away told={told} days={days} />
        {schedule.booked.filter(onIt).map((one) => {
          const task = told.tasks.find(({ id }) => id === one.task);
          const begun = !!task?.begun;
          return (
            <Bar
              key={one.task}
              one={one}
              says={task?.says || one.task}
              days={days}
              begin={draft?.task === one.task ? draft.not_before : null}
              stays={begun}
              take={(event) => {
                if (begun) return;
                drag.current = { task: one.task, x: event.clientX, begin: shareOf(one.begin, days) };
              }}
              press={(event) => !begun && press(event, one)}
            />
          );
        })}
      </div>
    </div>
  );
}

/** Hatches the hours in which nobody is there. */
function Away({ told, days }: { told: PlanTold; days: Date[] }) {
  return told.away.map(([begin, end]) => {
    const left = Math.max(shareOf(begin, days), 0);
    const right = Math.min(shareOf(end, days), 1);
    return right > left ? (
      <div
        key={begin}
        className={styles.away}
        style={{ left: `${100 * left}%`, width: `${100 * (right - left)}%` }}
      />
    ) : null;
  });
}

function Bar({
  one,
  says,
  days,
  begin,
  stays,
  take,
  press,
}: {
  one: Booked;
  says: string;
  days: Date[];
  /** Where it is moved to, of one that is. */
  begin: string | null | undefined;
  stays: boolean;
  take: (event: React.PointerEvent) => void;
  press: (event: React.KeyboardEvent) => void;
}) {
  const wide = shareOf(one.over, days) - shareOf(one.begin, days);
  const left = Math.max(shareOf(begin ?? one.begin, days), 0);
  const waits = one.waits ? '; it ends while nobody is there, and keeps its machine until somebody is' : '';
  const late = one.late_minutes > 0 ? `; ${(one.late_minutes / 60).toFixed(1)} h late` : '';
  const label = `${says}: ${clock(one.begin)} to ${clock(one.over)}${stays ? ', under way' : ''}${waits}${late}`;
  const drawn = {
    className: styles.bar,
    'data-late': one.late_minutes > 0 || undefined,
    'data-waits': one.waits || undefined,
    'data-moved': begin ? true : undefined,
    'data-stays': stays || undefined,
    style: { left: `${100 * left}%`, width: `${Math.max(100 * wide, 0.25)}%` },
    title: label,
    'aria-label': label,
  };
  const text = wide >= WIDE && <span>{says}</span>;
  return stays || wide < WIDE ? (
    <div role="img" {...drawn}>
      {text}
    </div>
  ) : (
    <button {...drawn} onPointerDown={take} onKeyDown={press}>
      {text}
    </button>
  );
}
