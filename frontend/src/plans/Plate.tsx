import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type Conflicts, type PlanTold, type RoomFound } from '../app/client';
import { count, duration, mm, money } from '../app/units';
import { useKeys } from '../app/useKeys';
import { BeginPlate } from './BeginPlate';
import { handPlates, movedTo, type At, type Drawn } from './handPlaced';
import { PlateDrawing } from './PlateDrawing';
import styles from './plans.module.css';
import type { PlanActs } from './usePlan';

const A_STEP_MM = 1;
const A_LONG_STEP_MM = 10;
const A_TURN = 15;

/** One plate from above, its parts to be moved by mouse and keys, and what it takes. */
export function Plate({
  name,
  plate,
  plates,
  show,
  acts,
}: {
  /** Of the plan that it is of. */
  name: string;
  plate: Drawn;
  plates: PlanTold['plates'];
  show: (number: number) => void;
  acts: Pick<PlanActs, 'busy' | 'change' | 'byHand'>;
}) {
  const at = plates.indexOf(plate);
  const [chosen, choose] = useState<number | null>(null);
  const [moved, setMoved] = useState<ReadonlyMap<number, At>>(new Map());
  const [trouble, setTrouble] = useState('');
  const conflicts = useConflicts(name, plate, moved);
  const turn = (by: number) => {
    const next = plates[at + by];
    if (next) show(next.number);
  };
  const place = (part: number, to: At) => setMoved(new Map(moved).set(part, to));
  const step = (x: number, y: number, degrees = 0) => {
    const one = chosen === null ? undefined : plate.lying[chosen];
    if (chosen === null || !one) return;
    const from = moved.get(chosen) ?? one;
    place(chosen, { x: from.x + x, y: from.y + y, turn: (from.turn + degrees + 360) % 360 });
  };
  const keep = () => {
    if (!moved.size || acts.busy) return;
    acts.change('placed by hand', { plates: handPlates(plates, plate, moved) });
    setMoved(new Map());
  };
  const leave = () => {
    setMoved(new Map());
    choose(null);
  };
  const later = plates.slice(at + 1).find(({ setting }) => setting === plate.setting);
  const toNext = async () => {
    if (chosen === null || !later) return;
    const { at: found } = await dataOf<RoomFound>(
      api.POST('/api/plans/{name}/plates/{plate}/room', {
        params: { path: { name, plate: later.number } },
        body: { plate: plate.number, part: chosen },
      }),
    );
    if (!found) return setTrouble(`There is no room for it on plate ${later.number}; nothing was moved.`);
    const [x, y, degrees] = found;
    acts.change(`moved to plate ${later.number}`, {
      plates: movedTo(plates, plate, chosen, later, { x, y, turn: degrees }),
    });
    leave();
  };
  const byHand = (act: 'more' | 'less') => {
    if (chosen === null || acts.busy) return;
    acts.byHand(act, name, plate.number, chosen);
    leave();
  };
  useKeys({
    ...{ '+': () => byHand('more'), '-': () => byHand('less') },
    ...{ j: () => turn(1), k: () => turn(-1), Enter: keep, Escape: leave },
    p: () => choose(chosen === null ? 0 : (chosen + 1) % plate.lying.length),
    ...{ ArrowLeft: () => step(-A_STEP_MM, 0), ArrowRight: () => step(A_STEP_MM, 0) },
    ...{ ArrowUp: () => step(0, A_STEP_MM), ArrowDown: () => step(0, -A_STEP_MM) },
    ...{ H: () => step(-A_LONG_STEP_MM, 0), L: () => step(A_LONG_STEP_MM, 0) },
    ...{ r: () => step(0, 0, A_TURN), R: () => step(0, 0, -A_TURN) },
  });
  const { told } = plate;
  const held = chosen === null ? undefined : plate.lying[chosen];
  const placed = plate.lying.filter(({ by_hand }) => by_hand).length;
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
      <PlateDrawing
        plate={plate}
        moved={moved}
        chosen={chosen}
        conflicts={conflicts}
        choose={choose}
        place={place}
      />
      <p className="soft">
        Shadows with supports; figures: height, mm. Drag one, or <kbd>P</kbd> chooses, arrows move by 1 mm,{' '}
        <kbd>R</kbd> turns.
      </p>
      {held && (
        <p className={styles.turns}>
          <b>{held.name}</b>
          <span className="soft">
            stands on {held.foot_mm2.toFixed(0)} mm²
            {held.pull_N != null && `, its largest layer is torn off with ${held.pull_N.toFixed(1)} N`}
          </span>
          {later && (
            <button className="plain" disabled={acts.busy} onClick={() => void toNext()}>
              <u>move it to plate {later.number}</u>
            </button>
          )}
          <button className="plain" disabled={acts.busy} onClick={() => byHand('more')}>
            <kbd>+</kbd> <u>print one more here</u>
          </button>
          <button className="plain" disabled={acts.busy} onClick={() => byHand('less')}>
            <kbd>-</kbd> <u>take it off the plan</u>
          </button>
        </p>
      )}
      <ErrorLine says={trouble} />
      {moved.size > 0 && (
        <p className={styles.turns} role="status">
          {conflictSays(plate, conflicts) || 'Nothing meets, and all keep their margin.'}
          <button className="ruled" disabled={acts.busy} onClick={keep}>
            <kbd>Enter</kbd> Keep it so, pack the rest anew
          </button>
          <button className="plain" onClick={leave}>
            <kbd>Esc</kbd> <u>leave it where it was</u>
          </button>
        </p>
      )}
      {placed > 0 && !moved.size && (
        <p>
          {count(placed, 'part')} placed by hand.{' '}
          <button
            className="plain"
            disabled={acts.busy}
            onClick={() =>
              acts.change('packed anew', {
                plates: handPlates(plates, plate, new Map(), new Set(plate.lying.keys())),
              })
            }
          >
            <u>pack them anew</u>
          </button>
        </p>
      )}
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
        {named(plate).map(([part, many]) => (
          <li key={part}>
            {many > 1 && `${many} x `}
            {part}
          </li>
        ))}
      </ul>
      <details>
        <summary>What has to be set, and the plate as a file</summary>
        <table className="limbs">
          <tbody>
            {plate.card.map(([what, value]) => (
              <tr key={what}>
                <th scope="row">{what}</th>
                <td>{value}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className={styles.turns}>
          {(['3mf', 'stl', 'pdf'] as const).map((kind) => (
            <a key={kind} href={`/api/plans/${name}/plates/${plate.number}/plate.${kind}`}>
              {kind === 'pdf' ? 'sheet in true size, PDF' : `placed parts, ${kind.toUpperCase()}`}
            </a>
          ))}
        </p>
      </details>
      <BeginPlate key={plate.tag} plate={plate} />
    </>
  );
}

/** What is wrong where parts would be placed, asked while they are moved. */
function useConflicts(name: string, plate: Drawn, moved: ReadonlyMap<number, At>): Conflicts | null {
  const lying = plate.lying.map((one, k) => {
    const { x, y, turn } = moved.get(k) ?? one;
    return [x, y, turn] as [number, number, number];
  });
  const found = useQuery({
    queryKey: ['conflicts', name, plate.number, lying],
    queryFn: () =>
      dataOf<Conflicts>(
        api.POST('/api/plans/{name}/plates/{plate}/checked', {
          params: { path: { name, plate: plate.number } },
          body: { lying },
        }),
      ),
    enabled: moved.size > 0,
    placeholderData: (before) => before,
    gcTime: 0,
  });
  return moved.size ? (found.data ?? null) : null;
}

function conflictSays(plate: Drawn, conflicts: Conflicts | null): string {
  if (!conflicts) return 'Looking …';
  const called = (k: number) => plate.lying[k]?.name ?? 'a part';
  const [pair] = conflicts.meet;
  const [off] = conflicts.off;
  if (pair) return `${called(pair[0])} comes too near to ${called(pair[1])}.`;
  return off === undefined ? '' : `${called(off)} reaches over the edge.`;
}

/** Parts of a plate by name, each with how many there are. */
function named(plate: Drawn): [string, number][] {
  const many = new Map<string, number>();
  plate.lying.forEach(({ name }) => many.set(name, (many.get(name) ?? 0) + 1));
  return [...many];
}
