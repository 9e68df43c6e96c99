import type { Comparison } from '../app/client';
import { Mark } from '../app/Mark';
import { mm } from '../app/units';

const VERDICTS = ['new', 'not sure', 'still there', 'fixed'] as const;
const HEADS: Record<(typeof VERDICTS)[number], string> = {
  new: 'New',
  'not sure': 'Not sure',
  'still there': 'Still there',
  fixed: 'Fixed',
};
const SHOWN = 40;

/** What became of findings and measures from one version to another. */
export function Compared({ comparison }: { comparison: Comparison }) {
  const { matched, gone, added } = comparison;
  return (
    <>
      <Measures comparison={comparison} />
      {gone.length > 0 && <p>No longer there: {gone.join(', ')}.</p>}
      {added.length > 0 && <p>Added: {added.join(', ')}.</p>}
      {!matched.length && <p>Nothing was found in either.</p>}
      {VERDICTS.map((verdict) => {
        const some = matched.filter((match) => match.verdict === verdict);
        if (!some.length) return null;
        return (
          <section key={verdict}>
            <h3>
              {HEADS[verdict]}, {some.length.toLocaleString('en')}
            </h3>
            <ul className="plain-list">
              {some.slice(0, SHOWN).map((match, k) => {
                const finding = match.after ?? match.before;
                return (
                  finding && (
                    <li key={k} className={verdict === 'fixed' ? 'done' : ''}>
                      <Mark severity={finding.severity} /> {finding.title}
                      <span className="soft">{change(match)}</span>
                    </li>
                  )
                );
              })}
              {some.length > SHOWN && (
                <li className="soft">and {(some.length - SHOWN).toLocaleString('en')} more</li>
              )}
            </ul>
          </section>
        );
      })}
    </>
  );
}

function change({ before, after }: Comparison['matched'][number]): string {
  if (!before || !after || mm(before.measured) === mm(after.measured)) return '';
  return ` ${mm(before.measured)} to ${mm(after.measured)} ${after.unit}`;
}

function Measures({ comparison: { facts_before: before, facts_after: after } }: { comparison: Comparison }) {
  return (
    <table className="measures">
      <thead>
        <tr>
          <th scope="col">part</th>
          <th scope="col">tall, mm</th>
          <th scope="col">volume, ml</th>
          <th scope="col">triangles</th>
        </tr>
      </thead>
      <tbody>
        {after.map((now) => {
          const then = before.find((other) => other.part === now.part);
          return (
            <tr key={now.part}>
              <th scope="row">{now.part}</th>
              <td>{fromTo(then && mm(then.size_mm[2]), mm(now.size_mm[2]))}</td>
              <td>{fromTo(then && ml(then.volume_mm3), ml(now.volume_mm3))}</td>
              <td>{fromTo(then?.triangles.toLocaleString('en'), now.triangles.toLocaleString('en'))}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const ml = (mm3: number) => (mm3 / 1000).toFixed(2);

function fromTo(then: string | undefined, now: string): string {
  return then === undefined || then === now ? now : `${then} to ${now}`;
}
