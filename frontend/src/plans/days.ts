import type { PlanTold } from '../app/client';

type Schedule = NonNullable<PlanTold['schedule']>;
export type Booked = Schedule['booked'][number];

const DAY_MS = 86_400_000;

/** The days a schedule goes over, from the midnight before it begins: each as a moment. */
export function daysOf(schedule: Schedule): Date[] {
  const first = midnight(new Date(Math.min(...schedule.booked.map((one) => Date.parse(one.begin)))));
  const last = Date.parse(schedule.ready);
  const days = [];
  for (let at = first; at.getTime() < last; at = new Date(at.getFullYear(), at.getMonth(), at.getDate() + 1))
    days.push(at);
  return days.length ? days : [first];
}

/** The beginning of a day. */
function midnight(at: Date): Date {
  return new Date(at.getFullYear(), at.getMonth(), at.getDate());
}

/** Where a moment lies between the first of some days and the end of the last, 0 to 1. */
export function shareOf(moment: string, days: readonly Date[]): number {
  const [first] = days;
  const last = days.at(-1);
  if (!first || !last) return 0;
  const whole = last.getTime() + DAY_MS - first.getTime();
  return (Date.parse(moment) - first.getTime()) / whole;
}

/** What is begun or ended by hand on one day, in the order of the clock. */
export function byHandOn(told: PlanTold, day: Date): { at: string; says: string }[] {
  const tasks = new Map(told.tasks.map((task) => [task.id, task]));
  const next = new Date(day.getFullYear(), day.getMonth(), day.getDate() + 1);
  const rows = (told.schedule?.booked ?? []).flatMap((one) => {
    const task = tasks.get(one.task);
    const says = task?.says ?? one.task;
    const on = told.machines.find(({ id }) => id === one.machine)?.name;
    const begins = task?.hands_before
      ? [{ at: one.begin, says: `${on ? 'begin ' : ''}${says}${on ? ` on ${on}` : ''}` }]
      : [];
    const ends = task?.hands_after
      ? [{ at: after(one.over, -(task.hands_after ?? 0)), says: `take ${says} off ${on ?? ''}` }]
      : [];
    return [...begins, ...ends];
  });
  return rows
    .filter(({ at }) => Date.parse(at) >= day.getTime() && Date.parse(at) < next.getTime())
    .sort((a, b) => Date.parse(a.at) - Date.parse(b.at));
}

/** A moment so many minutes later, as text without a zone. */
function after(moment: string, minutes: number): string {
  const at = new Date(Date.parse(moment) + minutes * 60_000);
  const two = (value: number) => String(value).padStart(2, '0');
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}:00`;
}

/** A clock time: "09:10". */
export const clock = (moment: string): string =>
  new Date(moment).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
