import { useState } from 'react';

import type { DrawnWay } from '../../app/client';
import { mm } from '../../app/units';
import { DoIt } from '../../figure/DoIt';
import type { Change, Sheet } from '../../figure/sheet';
import { scopeOf } from '../hollow/hollow';
import styles from './stand.module.css';
import { HELD, sideSaid } from './Stands';
import { useWays } from './ways';

/** A few really different ways to stand, beside each other, and the one that is chosen. */
export function WaysAct({ page, build, part, acts }: Sheet) {
  const [chosen, choose] = useState(0);
  const asked = useWays(page.id, build.key, part?.facts.part ?? '', page.looked, !acts.stale && !!part);
  if (!part) return null;
  if (asked.isError) {
    return (
      <p className="error" role="alert">
        {asked.error.message}
      </p>
    );
  }
  if (!asked.data) {
    return (
      <p className="soft" role="status">
        Weighing ways to stand: their layers, contacts and what cutters reach. It takes some seconds; leaving
        this stops it.
      </p>
    );
  }
  const { ways, why } = asked.data;
  const one = ways[chosen] ?? ways[0];
  if (!one) return <p className="error">{why || 'No way to stand was found.'}</p>;
  const scope = scopeOf(build, part);
  const change: Change = {
    does: 'set',
    says: `stood: ${one.way.name.toLowerCase()}`,
    steps: [
      { kind: 'orient', values: { up: one.way.up, on: true, taken: [], ...(scope ? { scope } : {}) } },
      HELD,
    ],
  };
  return (
    <>
      <p className="why">
        {sideSaid(build) ? '' : 'Nobody said which side shows, so contacts are counted as if all did not. '}
        Estimates, from where contacts would be; the one you take is held and looked at layer by layer.
      </p>
      <div className={styles.ways} role="radiogroup" aria-label="Ways to stand">
        {ways.map(({ way, picture }, k) => (
          <button
            key={way.name}
            role="radio"
            aria-checked={k === chosen}
            className={styles.way}
            onClick={() => choose(k)}
          >
            <img src={`/api/blobs/${picture}`} alt="" />
            <span>
              <b>{letter(k)}</b> {way.name}
            </span>
            {!way.fits && <span className={styles.stop}>does not fit the printer</span>}
          </button>
        ))}
      </div>
      <WaysTable ways={ways} chosen={one} />
      <DoIt acts={acts} label="Stand it that way and hold it" change={change} />
    </>
  );
}

/** What each way gives and costs; the least of each row is set in bold. */
function WaysTable({ ways, chosen }: { ways: DrawnWay[]; chosen: DrawnWay }) {
  return (
    <table className={`limbs ${styles.table}`}>
      <caption>Ways in the order of the pictures, left to right; the least of each row in bold.</caption>
      <tbody>
        {ROWS.map(({ says, of, told }) => {
          const values = ways.map(({ way }) => of(way));
          const least = Math.min(...values);
          const alike = values.every((value) => value === least);
          return (
            <tr key={says}>
              <th scope="row">{says}</th>
              {ways.map((one, k) => (
                <td key={one.way.name} data-chosen={one === chosen || undefined}>
                  {values[k] === least && !alike ? <b>{told(least)}</b> : told(values[k] ?? 0)}
                </td>
              ))}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const letter = (k: number) => String.fromCharCode(65 + k);

type Weighed = DrawnWay['way'];
const whole = (value: number) => value.toFixed(0);
const tenth = (value: number) => value.toFixed(1);

const ROWS: { says: string; of: (way: Weighed) => number; told: (value: number) => string }[] = [
  { says: 'contacts that show', of: (way) => way.on_show, told: whole },
  { says: 'contacts in all', of: (way) => way.contacts, told: whole },
  { says: 'cutters do not reach', of: (way) => way.trapped, told: whole },
  { says: 'clean-up, min', of: (way) => way.cleanup_min, told: whole },
  { says: 'islands', of: (way) => way.islands, told: whole },
  { says: 'mouths that suck', of: (way) => way.cups, told: whole },
  { says: 'largest layer, mm²', of: (way) => way.peak_mm2, told: whole },
  { says: 'largest jump, mm²', of: (way) => way.jump_mm2, told: whole },
  { says: 'steps that show, mm²', of: (way) => way.steps_mm2, told: whole },
  { says: 'supports, ml', of: (way) => way.support_ml, told: tenth },
  { says: 'height, mm', of: (way) => way.height_mm, told: mm },
  { says: 'hours', of: (way) => way.seconds / 3600, told: tenth },
];
