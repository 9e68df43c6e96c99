import { Fragment, useState } from 'react';

import type { ThingView, ValueRow } from '../app/client';
import { count, day } from '../app/units';
import styles from './bench.module.css';
import type { BenchActs } from './useBench';

/** The values of one thing on the bench, each with its unit, its range and where it comes from. */
export function ValueTable({ place, thing, acts }: { place: string; thing: ThingView; acts: BenchActs }) {
  return (
    <table className={styles.values}>
      <thead>
        <tr>
          <th scope="col">value</th>
          <th scope="col" />
          <th scope="col">unit</th>
          <th scope="col">range</th>
          <th scope="col">where from</th>
        </tr>
      </thead>
      <tbody>
        {thing.values.map((row, k) => (
          <Fragment key={row.path}>
            {row.group && row.group !== thing.values[k - 1]?.group && (
              <tr>
                <th colSpan={5} scope="colgroup" className={styles.group}>
                  {row.group}
                </th>
              </tr>
            )}
            <tr>
              <th scope="row">{row.label}</th>
              <td>
                <ValueField
                  row={row}
                  busy={acts.busy}
                  save={(value) => acts.setValue(place, thing.id, row.path, value)}
                />
              </td>
              <td className="soft">{row.unit}</td>
              <td className="soft">{rangeOf(row)}</td>
              <td className={row.origin.kind === 'bench default' ? 'soft' : styles.own}>
                {originSays(row)}
                {thing.shipped && row.origin.kind !== 'bench default' && (
                  <>
                    {' '}
                    <button
                      className="plain"
                      aria-label={`${row.label} back to ${textOf(row.shipped)}, the default`}
                      onClick={() => acts.setDefault(place, thing.id, row.path)}
                    >
                      <u>back to {textOf(row.shipped)}</u>
                    </button>
                  </>
                )}
              </td>
            </tr>
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

/** The range that a value is held to, in words. */
export function rangeOf({ low, high, above, optional, choices }: ValueRow): string {
  if (Object.keys(choices).length) return '';
  const ends =
    low !== null && high !== null
      ? `${above ? 'above ' : ''}${numeral(low)} to ${numeral(high)}`
      : high !== null
        ? `up to ${numeral(high)}`
        : '';
  return [ends, optional && 'may be left empty'].filter(Boolean).join(', ');
}

function originSays({ origin }: ValueRow): string {
  if (origin.kind === 'bench default') return origin.kind;
  const { kind, since, proofs } = origin;
  const from = proofs.length ? ` from ${count(proofs.length, 'proof')}: ${proofs.join(', ')}` : '';
  return `${kind === 'user' ? 'yours' : `learnt${from}`}${since ? ` since ${day(since)}` : ''}`;
}

const numeral = (value: number) => value.toLocaleString('en', { maximumFractionDigits: 6 });

function textOf(value: ValueRow['value']): string {
  if (Array.isArray(value)) return value.map(numeral).join(' x ');
  if (typeof value === 'number') return String(value);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return value ?? '';
}

/** One value, to be typed or chosen; it is kept when it is entered or left, and Escape leaves it as it was. */
function ValueField({
  row,
  busy,
  save,
}: {
  row: ValueRow;
  busy: boolean;
  save: (value: ValueRow['value']) => void;
}) {
  const now = textOf(row.value);
  const [typed, setTyped] = useState<string | null>(null);
  const name = `${row.group ? `${row.group}, ` : ''}${row.label}${row.unit ? `, ${row.unit}` : ''}`;
  if (row.kind === 'fixed') return <>{row.choices[now] ?? now}</>;
  if (row.kind === 'yes or no')
    return (
      <input
        type="checkbox"
        aria-label={name}
        checked={row.value === true}
        disabled={busy}
        onChange={(event) => save(event.target.checked)}
      />
    );
  if (row.kind === 'choice')
    return (
      <select aria-label={name} value={now} disabled={busy} onChange={(event) => save(event.target.value)}>
        {Object.entries(row.choices).map(([choice, called]) => (
          <option key={choice} value={choice}>
            {called}
          </option>
        ))}
      </select>
    );
  const text = typed ?? now;
  const read = readAs(row, text);
  const keep = () => {
    if (typed !== null && read.ok && text.trim() !== now) save(read.value);
    if (read.ok) setTyped(null);
  };
  return (
    <>
      <input
        className={styles.field}
        aria-label={name}
        aria-invalid={!read.ok}
        inputMode={row.kind === 'text' ? 'text' : 'decimal'}
        size={row.kind === 'size' || row.kind === 'text' ? 18 : 8}
        value={text}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') keep();
          if (event.key === 'Escape') setTyped(null);
        }}
      />
      {!read.ok && (
        <span className="error" role="alert">
          {' '}
          {read.says}
        </span>
      )}
    </>
  );
}

type Read = { ok: true; value: ValueRow['value'] } | { ok: false; says: string };

/** What a text says as a value, or why it cannot be one. */
export function readAs(row: ValueRow, text: string): Read {
  const typed = text.trim().replace(/,/g, '.');
  if (row.kind === 'text') return { ok: true, value: text.trim() };
  if (typed === '')
    return row.optional ? { ok: true, value: null } : { ok: false, says: 'a value is wanted' };
  if (row.kind === 'size') {
    const sides = typed.split(/\s*[x×]\s*|\s+/).map(Number);
    const [wide, deep, tall] = sides;
    if (sides.length !== 3 || wide === undefined || deep === undefined || tall === undefined)
      return { ok: false, says: 'three lengths, as 132 x 74 x 165' };
    return sides.every((side) => side > 0)
      ? { ok: true, value: [wide, deep, tall] }
      : { ok: false, says: 'lengths above 0' };
  }
  const value = Number(typed);
  if (!Number.isFinite(value)) return { ok: false, says: 'a number' };
  const under = row.low !== null && (row.above ? value <= row.low : value < row.low);
  if (under || (row.high !== null && value > row.high)) return { ok: false, says: rangeOf(row) };
  if (row.kind === 'whole number' && !Number.isInteger(value)) return { ok: false, says: 'a whole number' };
  return { ok: true, value };
}
