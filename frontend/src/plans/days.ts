import type { PlanTold } from '../app/client';

type Schedule = NonNullable<PlanTold['schedule']>;
export type Booked = Schedule['booked'][number];

const DAY_MS = 86_400_000;
const MINUTE_MS = 60_000;
/** Minutes by which keys move a task. */
export const AN_HOUR = 60;

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

/** The moment at a share of some days, to the quarter of an hour. */
export function momentAt(share: number, days: readonly Date[]): string {
  const [first] = days;
  const last = days.at(-1);
  if (!first || !last) return '';
  const whole = last.getTime() + DAY_MS - first.getTime();
  const quarter = 15 * MINUTE_MS;
  return written(new Date(first.getTime() + Math.round((share * whole) / quarter) * quarter));
}

/** What is done by hand at a moment, and the task that it is of. */
export interface ByHand {
  at: string;
  says: string;
  task: string;
  /** Whether it ends its task. */
  last: boolean;
}

/** What is begun or ended by hand on one day, in the order of the clock. */
export function byHandOn(told: PlanTold, day: Date): ByHand[] {
  const tasks = new Map(told.tasks.map((task) => [task.id, task]));
  const next = new Date(day.getFullYear(), day.getMonth(), day.getDate() + 1);
  const rows = (told.schedule?.booked ?? []).flatMap((one) => {
    const task = tasks.get(one.task);
    const says = task?.says ?? one.task;
    const on = told.machines.find(({ id }) => id === one.machine)?.name;
    const ending = !!task?.hands_after;
    const begins =
      task?.hands_before && !task.begun
        ? [{ at: one.begin, says: `${on ? 'begin ' : ''}${says}${on ? ` on ${on}` : ''}`, last: !ending }]
        : [];
    const ends = ending
      ? [{ at: after(one.over, -(task.hands_after ?? 0)), says: `take ${says} off ${on ?? ''}`, last: true }]
      : [];
    return [...begins, ...ends].map((row) => ({ ...row, task: one.task }));
  });
  return rows
    .filter(({ at }) => Date.parse(at) >= day.getTime() && Date.parse(at) < next.getTime())
    .sort((a, b) => Date.parse(a.at) - Date.parse(b.at));
}

/** How much of each hour of some days hands are busy, 0 to 1. */
export function handsByHour(told: PlanTold, days: readonly Date[]): number[] {
  const [first] = days;
  const busy = new Array<number>(days.length * 24).fill(0);
  if (!first) return busy;
  const tasks = new Map(told.tasks.map((task) => [task.id, task]));
  for (const one of told.schedule?.booked ?? []) {
    const task = tasks.get(one.task);
    const stretches = [
      [Date.parse(one.begin), task?.begun ? 0 : (task?.hands_before ?? 0)],
      [Date.parse(one.over) - (task?.hands_after ?? 0) * MINUTE_MS, task?.hands_after ?? 0],
    ] as const;
    for (const [begin, minutes] of stretches) {
      let at = (begin - first.getTime()) / (60 * MINUTE_MS);
      let left = minutes / 60;
      while (left > 1e-9) {
        const hour = Math.floor(at + 1e-9);
        const share = Math.min(left, hour + 1 - at);
        if (hour >= 0 && hour < busy.length) busy[hour] = (busy[hour] ?? 0) + share;
        at += share;
        left -= share;
      }
    }
  }
  return busy;
}

/** A moment so many minutes later, as text without a zone. */
export function after(moment: string, minutes: number): string {
  return written(new Date(Date.parse(moment) + minutes * MINUTE_MS));
}

function written(at: Date): string {
  const two = (value: number) => String(value).padStart(2, '0');
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}:00`;
}

/** A clock time: "09:10". */
export const clock = (moment: string): string =>
  new Date(moment).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });

/** A day of the week with its time: "Tue 8, 09:10". */
export const dayClock = (moment: string): string =>
  `${new Date(moment).toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric' })}, ${clock(moment)}`;
