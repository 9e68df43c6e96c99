import type { PlanTold, WantedPlan } from '../app/client';

export type Drawn = PlanTold['plates'][number];
type Lying = Drawn['lying'][number];
type HandPlate = NonNullable<WantedPlan['plates']>[number];

/** Where a part lies on a plate: its middle in mm from the left front corner, and its turn in degrees. */
export type At = Readonly<Pick<Lying, 'x' | 'y' | 'turn'>>;

const toPlace = ({ figure, edition, part, layers }: Lying, { x, y, turn }: At) => ({
  ...{ figure, edition, part, layers, x, y, turn },
});

/**
 * What the hand placed on all plates of a plan, with what was moved on one of them (by its place in the list), and
 * without what was taken off it. What the hand placed before stays placed.
 */
export function handPlates(
  plates: readonly Drawn[],
  on: Drawn,
  moved: ReadonlyMap<number, At>,
  taken: ReadonlySet<number> = new Set(),
): HandPlate[] {
  return plates.flatMap((plate) => {
    const lying = plate.lying.flatMap((one, k) => {
      if (plate !== on) return one.by_hand ? [toPlace(one, one)] : [];
      if (taken.has(k)) return [];
      const at = moved.get(k);
      return at || one.by_hand ? [toPlace(one, at ?? one)] : [];
    });
    return lying.length ? [{ setting: plate.setting, lying }] : [];
  });
}

/** What the hand placed when a part goes from one plate to another, where it lies `at`; all on both stays. */
export function movedTo(plates: readonly Drawn[], from: Drawn, part: number, to: Drawn, at: At): HandPlate[] {
  const one = from.lying[part];
  return plates.flatMap((plate) => {
    const whole = plate === from || plate === to;
    const lying = plate.lying.flatMap((other, k) =>
      (whole && !(plate === from && k === part)) || (!whole && other.by_hand) ? [toPlace(other, other)] : [],
    );
    if (plate === to && one) lying.push(toPlace(one, at));
    return lying.length ? [{ setting: plate.setting, lying }] : [];
  });
}
