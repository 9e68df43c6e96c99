import { useState } from 'react';

import type { Gauge } from '../../app/client';
import { count, mm } from '../../app/units';
import { ChoiceField } from '../Fields';

type Place = Gauge['places'][number];

const COLUMNS = { name: 'where', kind: 'kind', least_mm: 'wall, mm', extent_mm: 'long, mm' } as const;
type Column = keyof typeof COLUMNS;
const WHICH = {
  all: 'all',
  stops: 'under what stops',
  held: 'held walls',
  'free-standing': 'free-standing walls',
  pin: 'pins',
  edge: 'edges',
} as const;
type Which = keyof typeof WHICH;

const ROWS = 40;

/** Thin places as a table: sorted by a column, some of them, and all of those as a file. */
export function ThinPlaces({
  places,
  build,
  show,
}: {
  places: Place[];
  /** Key of the build. */
  build: string;
  show: (place: Place) => void;
}) {
  const [by, setBy] = useState<Column>('least_mm');
  const [falling, setFalling] = useState(false);
  const [which, setWhich] = useState<Which>('all');
  const [all, setAll] = useState(false);
  if (!places.length) return <p className="soft">No wall is under the limits of the material.</p>;
  const kept = places.filter(
    (place) => which === 'all' || (which === 'stops' ? place.stops : place.kind === which),
  );
  const rows = [...kept].sort((a, b) => (falling ? -1 : 1) * compare(a[by], b[by]));
  const shown = all ? rows : rows.slice(0, ROWS);
  const turn = (column: Column) => {
    setFalling(column === by && !falling);
    setBy(column);
  };
  return (
    <>
      <div className="fields two">
        <ChoiceField label="Places shown" value={which} options={WHICH} change={setWhich} />
        <a href={`/api/builds/${build}/places.csv?${query(which)}`} download="places.csv">
          {count(kept.length, 'place')} as CSV
        </a>
      </div>
      <table className="limbs">
        <thead>
          <tr>
            {(Object.keys(COLUMNS) as Column[]).map((column) => (
              <th
                key={column}
                scope="col"
                aria-sort={column === by ? (falling ? 'descending' : 'ascending') : undefined}
              >
                <button className="plain" onClick={() => turn(column)}>
                  {COLUMNS[column]}
                  {column === by && <span aria-hidden>{falling ? ' ↓' : ' ↑'}</span>}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((place) => (
            <tr key={`${place.part} ${place.point.join(' ')}`}>
              <th scope="row">
                <button className="plain" onClick={() => show(place)}>
                  <u>{place.name}</u>
                </button>
              </th>
              <td>{place.kind}</td>
              <td className={place.stops ? 'grave' : undefined}>{mm(place.least_mm)}</td>
              <td>{mm(place.extent_mm)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > shown.length && (
        <button className="plain" onClick={() => setAll(true)}>
          <u>and {count(rows.length - shown.length, 'more', 'more')}</u>
        </button>
      )}
    </>
  );
}

function compare(a: string | number, b: string | number): number {
  return typeof a === 'number' && typeof b === 'number' ? a - b : String(a).localeCompare(String(b));
}

function query(which: Which): string {
  if (which === 'all') return '';
  return which === 'stops' ? 'stops=true' : `kind=${which}`;
}
