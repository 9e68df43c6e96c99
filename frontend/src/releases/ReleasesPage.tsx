import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type ReleaseSets, type ReleaseSetView } from '../app/client';
import { count, day } from '../app/units';
import { SheetHead } from '../shelf/SheetHead';
import styles from './releases.module.css';
import { outRows, unanswered, type OutRow } from './rows';

/** What has gone out of the studio, in which shops it is, and what is to be done about it. */
export default function ReleasesPage() {
  const all = useQuery({
    queryKey: ['release-sets', 'all'],
    queryFn: () => dataOf<ReleaseSets>(api.GET('/api/release-sets')),
  });
  const sets = all.data?.sets ?? [];
  const rows = outRows(sets);
  return (
    <div className="page">
      <SheetHead name="releases" />
      <main className={`sheet ${styles.sheet}`} aria-busy={all.isPending}>
        <ErrorLine says={all.error?.message} />
        {all.isPending && <p className="soft">Looking for what has gone out …</p>}
        {all.data && <h2>{heading(rows, sets)}</h2>}
        {all.data && sets.length === 0 && (
          <p className="why">
            A release set is begun on a figure, at its station Release: choose editions, say who gets which,
            pack it. Every issue, shop and report then stands here.
          </p>
        )}
        {rows.length > 0 && <Out rows={rows} />}
        {(all.data?.unreadable ?? 0) > 0 && (
          <p className="soft">
            {count(all.data?.unreadable ?? 0, 'set')} that another version of Ulvet wrote cannot be read by
            this one: kept, and not shown.
          </p>
        )}
      </main>
    </div>
  );
}

/** What stands out, in a line. */
function heading(rows: OutRow[], sets: ReleaseSetView[]): string {
  const shops = new Set(rows.flatMap(({ todo, shop }) => (todo ? [shop] : []))).size;
  const reports = sets.reduce((sum, set) => sum + unanswered(set), 0);
  const says = [
    shops ? `${count(shops, 'shop')} to see to` : '',
    reports ? `${count(reports, 'report')} to answer` : '',
  ].filter(Boolean);
  if (says.length > 0) return says.join(', ');
  if (sets.length === 0) return 'Nothing goes out yet';
  if (sets.every(({ issues }) => issues.length === 0)) return 'Nothing is out yet';
  return rows.some(({ shop }) => shop !== null)
    ? 'Every shop has what it should have'
    : 'Packed, and in no shop yet';
}

function Out({ rows }: { rows: OutRow[] }) {
  return (
    <div className={styles.wide}>
      <table className="limbs" aria-label="Packs by shop">
        <thead>
          <tr>
            <th scope="col">set and pack</th>
            <th scope="col">shop</th>
            <th scope="col">what is there</th>
            <th scope="col">newest issue</th>
            <th scope="col">buyers</th>
            <th scope="col">reports on the set to answer</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.key} data-todo={row.todo || undefined}>
              <th scope="row">
                <SetLink set={row.set} />, {row.tier}
              </th>
              <td>{row.shop ?? <span className="soft">offered nowhere</span>}</td>
              <td>{row.says}</td>
              <td>{newest(row.set)}</td>
              <td className={styles.number}>{row.buyers ?? '–'}</td>
              <td className={styles.number}>{unanswered(row.set) || '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A set by its name, which leads to its first figure's sheet. */
function SetLink({ set }: { set: ReleaseSetView }) {
  const [first] = set.release.items;
  if (!first) return <b>{set.release.name}</b>;
  return <Link to={`/figures/${first.figure}/release?edition=${first.edition}`}>{set.release.name}</Link>;
}

function newest({ issues: [last] }: ReleaseSetView): string {
  return last ? `${last.number}, ${day(`${last.date}T12:00:00`)}` : 'none';
}
