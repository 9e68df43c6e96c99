import { Link } from 'react-router';

import type { PlanView } from '../app/client';
import { count, moment } from '../app/units';
import styles from './plans.module.css';

/** Plates that were begun: what is under way, what came out, and what of it is printed again. */
export function Begun({ begun }: { begun: PlanView['begun'] }) {
  if (!begun.length) return null;
  return (
    <>
      <h2>Begun</h2>
      <ul className={styles.wanted} aria-label="Begun">
        {begun.map(({ proof, figure, edition, says, began, ended, failed }) => (
          <li key={proof}>
            <span>
              <Link to={`/figures/${figure}/proof?edition=${edition}&proof=${proof}`}>proof {proof}</Link>:{' '}
              {says}
            </span>
            <span className={failed ? styles.grave : 'soft'}>
              {ended
                ? failed
                  ? `${count(failed, 'copy', 'copies')} failed, planned anew`
                  : 'printed'
                : `under way since ${moment(began)}`}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
