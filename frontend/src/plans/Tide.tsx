import type { PlanTold } from '../app/client';
import { handsByHour } from './days';
import styles from './plans.module.css';

/** Hands as a tide: how much of each hour somebody is busy. */
export function Tide({ told, days }: { told: PlanTold; days: Date[] }) {
  const hours = handsByHour(told, days);
  const steps = hours.map((busy, k) => `L${k},${1 - Math.min(busy, 1)} L${k + 1},${1 - Math.min(busy, 1)}`);
  const whole = hours.reduce((sum, busy) => sum + busy, 0);
  return (
    <div className={styles.line}>
      <span>hands</span>
      <svg
        className={styles.tide}
        viewBox={`0 -0.05 ${hours.length} 1.1`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`Hands, hour by hour: ${whole.toFixed(1)} h in all`}
      >
        <path d={`M0,1 ${steps.join(' ')} L${hours.length},1 Z`} />
      </svg>
    </div>
  );
}
