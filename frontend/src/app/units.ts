/** A length in mm with the digits that can be believed and seen: 0.31, 4.2, 75.0, 312. */
export function mm(value: number): string {
  const size = Math.abs(value);
  if (size < 1) return value.toFixed(2);
  return size < 200 ? value.toFixed(1) : value.toFixed(0);
}

/** Seconds as a person says them: "8 s", "4 min", "3 h 40 min". */
export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${minutes} min`;
  const rest = minutes % 60;
  return `${Math.floor(minutes / 60)} h${rest ? ` ${rest} min` : ''}`;
}

/** A count with its noun. */
export function count(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString('en')} ${n === 1 ? one : many}`;
}

/** Bytes as kB or MB. */
export function bytes(n: number): string {
  return n < 1e6 ? `${Math.max(1, Math.round(n / 1000))} kB` : `${(n / 1e6).toFixed(1)} MB`;
}

/** A change with its sign: "+0.40", "−0.01". */
export function signed(value: number, digits = 2): string {
  return `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(digits)}`;
}

let written: { currency: string; dates: DateOrder } = { currency: '', dates: 'day-month-year' };

/** In which order a studio writes day, month and year. */
export type DateOrder = 'day-month-year' | 'month-day-year' | 'year-month-day';

/** Has sums and dates written as the studio writes them, from now on. */
export function writeAs(currency: string, dates: DateOrder): void {
  written = { currency, dates };
}

/** A sum in the studio's money: "0.42", "0.42 €". */
export function money(value: number): string {
  return `${value.toFixed(2)}${written.currency && ` ${written.currency}`}`;
}

/** A moment as its day, in the studio's order: "3 December 2026". */
export function day(moment: string): string {
  const date = new Date(moment);
  if (written.dates === 'year-month-day') return date.toLocaleDateString('sv-SE');
  const locale = written.dates === 'month-day-year' ? 'en-US' : 'en-GB';
  return date.toLocaleDateString(locale, { day: 'numeric', month: 'long', year: 'numeric' });
}

/** Today, as the contract writes a day: "2026-12-03". */
export function today(): string {
  const now = new Date();
  const two = (value: number) => String(value).padStart(2, '0');
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
}

/** A moment with its time: "3 December 2026, 14:05". */
export function moment(of: string): string {
  const time = new Date(of).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  return `${day(of)}, ${time}`;
}

/** The largest of 1, 2, 5 times a power of ten that is not above `most`. */
export function roundLength(most: number): number {
  const power = 10 ** Math.floor(Math.log10(most));
  return [5, 2, 1].map((k) => k * power).find((length) => length <= most * 1.0001) ?? power;
}
