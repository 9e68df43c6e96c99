import { useState } from 'react';

import { count, duration, moment, money } from '../app/units';
import { SheetHead } from '../shelf/SheetHead';
import { Days } from './Days';
import { Plate } from './Plate';
import styles from './plans.module.css';
import { usePlan } from './usePlan';
import { Wanted } from './Wanted';

/** Plates and days: what is printed together, what it all takes, and when it is done. */
export default function PlansPage() {
  const { wanted, planned, planning, error, busy, keep, again } = usePlan();
  const [shown, setShown] = useState(1);
  const told = planned?.told;
  const plate = told?.plates.find(({ number }) => number === shown) ?? told?.plates[0];
  return (
    <div className="page">
      <SheetHead name="plates and days">
        {planned?.told.schedule && (
          <a href={`/api/plans/${planned.name}/days.ics`}>days as a calendar, ICS</a>
        )}
      </SheetHead>
      <main className={`sheet ${styles.sheet}`} aria-busy={!!planning}>
        {error && (
          <p className="error" role="alert">
            {error}
          </p>
        )}
        {planning && (
          <p className="soft" role="status">
            {planning.doing || 'Packing plates and planning days'} …
          </p>
        )}
        <div className={styles.above}>
          <section aria-label="Plates">
            {plate && told ? (
              <Plate plate={plate} plates={told.plates} show={setShown} />
            ) : (
              <>
                <h2>No plate yet</h2>
                <p className="soft">
                  Say what is to be printed. Parts are laid on plates as they stand, with their supports, and
                  the days it takes are added up.
                </p>
              </>
            )}
          </section>
          <section aria-label="What is wanted and what it takes">
            {wanted && <Wanted wanted={wanted} busy={busy} keep={keep} again={again} />}
            {told && <Sums told={told} due={wanted?.due ?? null} />}
          </section>
        </div>
        {told?.schedule && <Days told={told} />}
        {told?.why && (
          <p className="error" role="alert">
            {told.why}
          </p>
        )}
      </main>
    </div>
  );
}

type Told = NonNullable<ReturnType<typeof usePlan>['planned']>['told'];

/** What all of it takes: hands and waiting apart. */
function Sums({ told, due }: { told: Told; due: string | null }) {
  const { sums, schedule, unfit } = told;
  const ready = schedule?.ready;
  const late = !!due && !!ready && Date.parse(ready) > Date.parse(due);
  return (
    <>
      {unfit.map(({ name, why }) => (
        <p key={`${name} ${why}`} className="error">
          {name} {why}.
        </p>
      ))}
      {sums && (
        <>
          <h2>Add it up</h2>
          <table className={`limbs ${styles.sums}`}>
            <tbody>
              <Row says="printing" value={duration(sums.printing_s)} more={count(sums.plates, 'plate')} />
              <Row
                says="hands"
                value={duration(sums.hands_min * 60)}
                more="plates, washing, supports off and sanded"
              />
              <Row
                says="waiting"
                value={duration(sums.waiting_min * 60)}
                more="washing, drying and curing by themselves"
              />
              {sums.resin_ml > 0 && (
                <Row says="resin" value={`${sums.resin_ml.toFixed(0)} ml`} more="with supports" />
              )}
              {sums.filament_ml > 0 && (
                <Row says="filament" value={`${sums.filament_ml.toFixed(0)} ml`} more="with supports" />
              )}
              <Row
                says="money"
                value={money(sums.money)}
                more={`material and printers; ${sums.power_kwh.toFixed(1)} kWh`}
              />
              <Row
                says="failures allowed for"
                value={duration(sums.failures_s)}
                more={`${Math.round(100 * sums.fail_share)} of 100 plates, as the bench has it`}
              />
              {ready && (
                <Row
                  says="ready"
                  value={moment(ready)}
                  more={
                    due
                      ? late
                        ? `late: due ${moment(due)}`
                        : `in time, due ${moment(due)}`
                      : 'no date was set'
                  }
                  grave={late}
                />
              )}
              {schedule && (
                <Row
                  says="no sooner than"
                  value={moment(schedule.bound)}
                  more={`for ${schedule.bound_by}, whatever the order`}
                />
              )}
            </tbody>
          </table>
          <p className="soft">Estimates, by the settings’ own times.</p>
        </>
      )}
    </>
  );
}

function Row({
  says,
  value,
  more,
  grave = false,
}: {
  says: string;
  value: string;
  more: string;
  grave?: boolean;
}) {
  return (
    <tr>
      <th scope="row">{says}</th>
      <td className={grave ? styles.grave : undefined}>
        <b>{value}</b>
      </td>
      <td className={`${styles.more} ${grave ? styles.grave : ''}`}>{more}</td>
    </tr>
  );
}
