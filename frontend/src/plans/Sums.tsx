import type { PlanTold } from '../app/client';
import { count, duration, moment, money } from '../app/units';
import { dayClock } from './days';
import styles from './plans.module.css';

/** What all of it takes: hands and waiting apart; what runs short; and a table by figure. */
export function Sums({ told, due }: { told: PlanTold; due: string | null }) {
  const { sums, schedule, unfit, changed, short } = told;
  return (
    <>
      {unfit.map(({ name, why }) => (
        <p key={`${name} ${why}`} className="error">
          {name} {why}.
        </p>
      ))}
      {changed.map((one) => (
        <p key={one} className="error">
          {one}.
        </p>
      ))}
      {sums && (
        <>
          <h2>Add it up</h2>
          <table className={`limbs ${styles.sums}`}>
            <tbody>
              <Row says="printing" value={duration(sums.printing_s)} more={count(sums.plates, 'plate')} />
              <Row says="hands" value={duration(sums.hands_min * 60)} more={handsSay(sums)} />
              <Row
                says="waiting"
                value={duration(sums.waiting_min * 60)}
                more="washing, drying, curing and setting by themselves"
              />
              {sums.resin_ml > 0 && (
                <Row says="resin" value={`${sums.resin_ml.toFixed(0)} ml`} more="with supports" />
              )}
              {sums.filament_ml > 0 && (
                <Row says="filament" value={`${sums.filament_ml.toFixed(0)} ml`} more="with supports" />
              )}
              <Row
                says="money"
                value={money(sums.money + sums.paint_money)}
                more={`material${sums.paint_money > 0 ? ', paint' : ''} and printers; ${sums.power_kwh.toFixed(1)} kWh`}
              />
              <Row says="failures allowed for" value={duration(sums.failures_s)} more={failuresSay(sums)} />
              {schedule && <Ready ready={schedule.ready} due={due} />}
              {schedule && (
                <Row
                  says="no sooner than"
                  value={moment(schedule.bound)}
                  more={`for ${schedule.bound_by}, whatever the order`}
                />
              )}
              {short.map(({ good, there, wanted, at, says }) => (
                <Row
                  key={good.key}
                  says={good.name}
                  value={`${wanted.toFixed(0)} ${good.unit}`}
                  more={
                    there === null
                      ? 'nobody has counted what is there'
                      : `${there.toFixed(0)} ${good.unit} there: runs out ${at ? `${dayClock(at)}, ` : ''}at ${says}`
                  }
                  grave={there !== null}
                />
              ))}
            </tbody>
          </table>
          {(sums.lines ?? []).length > 1 && <ByFigure lines={sums.lines ?? []} />}
          <p className="soft">Estimates, by the settings’ own times.</p>
        </>
      )}
    </>
  );
}

type SumsTold = NonNullable<PlanTold['sums']>;

function handsSay({ hands }: SumsTold): string {
  const told = hands.filter(({ minutes }) => minutes >= 1);
  return told.map(({ says, minutes }) => `${says} ${duration(minutes * 60)}`).join(', ');
}

function failuresSay({ fail_share, fail_low, fail_high, fail_plates, fails_in_ten_hours }: SumsTold): string {
  const share = `${Math.round(100 * fail_share)} of 100 plates`;
  const hours = `${fails_in_ten_hours.toFixed(2)} in ten hours`;
  if (fail_low == null || fail_high == null) return `${share}, ${hours}, as the bench has it`;
  const range = `${Math.round(100 * fail_low)} to ${Math.round(100 * fail_high)}`;
  return `${share}, ${hours}; ${range} by ${count(fail_plates ?? 0, 'plate')} printed`;
}

function Ready({ ready, due }: { ready: string; due: string | null }) {
  const late = !!due && Date.parse(ready) > Date.parse(due);
  const says = due ? `${late ? 'late: due' : 'in time, due'} ${moment(due)}` : 'no date was set';
  return <Row says="ready" value={moment(ready)} more={says} grave={late} />;
}

function ByFigure({ lines }: { lines: NonNullable<SumsTold['lines']> }) {
  return (
    <details>
      <summary>By figure</summary>
      <table className={`limbs ${styles.byFigure}`}>
        <thead>
          <tr>
            <th scope="col">what</th>
            <th scope="col">printing</th>
            <th scope="col">hands</th>
            <th scope="col">ml</th>
            <th scope="col">money</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line, k) => (
            <tr key={k}>
              <th scope="row">{line.says}</th>
              <td>{duration(line.printing_s)}</td>
              <td>{duration(line.hands_min * 60)}</td>
              <td>{line.material_ml.toFixed(0)}</td>
              <td>{money(line.money)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
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
