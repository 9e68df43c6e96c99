import type { PlanTold } from '../app/client';
import { count, duration, mm, money } from '../app/units';
import { useKeys } from '../app/useKeys';
import { BeginPlate } from './BeginPlate';
import styles from './plans.module.css';

type Drawn = PlanTold['plates'][number];

/** One plate from above: shadows with supports, each with its height, and what the plate takes. */
export function Plate({
  plate,
  plates,
  show,
}: {
  plate: Drawn;
  plates: Drawn[];
  show: (number: number) => void;
}) {
  const at = plates.indexOf(plate);
  const turn = (by: number) => {
    const next = plates[at + by];
    if (next) show(next.number);
  };
  useKeys({ j: () => turn(1), k: () => turn(-1) });
  const { told, wide, deep } = plate;
  const tallest = Math.max(...plate.lying.map(({ tall }) => tall), 1);
  return (
    <>
      <h2>
        {plate.printer_name}, plate {plate.number} of {plates.length}
      </h2>
      <p className={styles.turns}>
        <button className="plain" disabled={at <= 0} onClick={() => turn(-1)}>
          <kbd>K</kbd> <u>before</u>
        </button>
        <button className="plain" disabled={at >= plates.length - 1} onClick={() => turn(1)}>
          <kbd>J</kbd> <u>next</u>
        </button>
        <span className="soft">{plate.setting_name}</span>
      </p>
      <p>
        {count(told.parts, 'part')}, tallest {mm(told.tall_mm)} mm: {duration(told.seconds)},{' '}
        {told.material_ml.toFixed(1)} ml, {money(told.money)} (estimate)
      </p>
      <svg
        className={styles.plate}
        viewBox={`-1 -1 ${wide + 2} ${deep + 2}`}
        role="img"
        aria-label={`${count(told.parts, 'shadow')} on a plate of ${mm(wide)} x ${mm(deep)} mm, its front at the foot`}
      >
        <rect
          x={0}
          y={0}
          width={wide}
          height={deep}
          fill="var(--sheet)"
          stroke="var(--ink)"
          strokeWidth={0.5}
        />
        {plate.lying.map((one, k) => (
          <g key={k}>
            <title>{`${one.name}, ${mm(one.tall)} mm tall`}</title>
            {one.outlines.map((ring, n) => (
              <polygon
                key={n}
                points={ring.map(([x, y]) => `${x},${deep - y}`).join(' ')}
                fill="var(--tint)"
                fillOpacity={0.35 + (0.65 * one.tall) / tallest}
                stroke="var(--ink)"
                strokeWidth={0.4}
              />
            ))}
            <text x={one.x} y={deep - one.y} className={styles.height} fontSize={Math.max(wide / 34, 2)}>
              {mm(one.tall)}
            </text>
          </g>
        ))}
      </svg>
      <p className="soft">Shadows with supports; figures: height, mm.</p>
      <p>
        {told.pull_N !== null && (
          <>
            Its largest layer, {told.peak_mm2.toFixed(0)} mm², is torn off with {told.pull_N.toFixed(1)}{' '}
            N.{' '}
          </>
        )}
        {told.parts > 1 && (
          <>If one part lets go, up to {told.lost_ml.toFixed(1)} ml of the others may be lost with it. </>
        )}
        {told.look_s === null
          ? 'Look at it when it is done.'
          : `Look at it first after ${duration(told.look_s)}.`}
      </p>
      <ul className="plain-list" aria-label="Parts on this plate">
        {named(plate).map(([name, many]) => (
          <li key={name}>
            {many > 1 && `${many} x `}
            {name}
          </li>
        ))}
      </ul>
      <BeginPlate key={plate.number} plate={plate} />
    </>
  );
}

/** Parts of a plate by name, each with how many there are. */
function named(plate: Drawn): [string, number][] {
  const many = new Map<string, number>();
  plate.lying.forEach(({ name }) => many.set(name, (many.get(name) ?? 0) + 1));
  return [...many];
}
