import type { StepOf } from '../../app/client';

type Support = StepOf<'support'>;
type HandAct = NonNullable<Support['acts']>[number];
export type Tool = HandAct['does'];
export type Beginning = NonNullable<Support['begin']>;
type Anchored = NonNullable<Support['places']>[number];

/** An act with its places, as it is shown and changed. */
export interface SaidAct {
  does: Tool;
  at: Anchored;
  to: Anchored | null;
  radius: number;
  mirrored: boolean;
}

/** What a click does: in a list of choices, while it is asked for, and once it is said. */
export const TOOLS: Record<Tool, { label: string; says: string; told: string; picks: number }> = {
  add: { label: 'adds a support', says: 'Click where it is to be held', told: 'A support added', picks: 1 },
  take: { label: 'takes one away', says: 'Click at the support', told: 'A support taken away', picks: 1 },
  move: {
    label: 'moves one',
    says: 'Click at the support, then where it goes',
    told: 'A support moved',
    picks: 2,
  },
  thicken: {
    label: 'thickens a tip',
    says: 'Click at the support',
    told: 'A tip a quarter thicker',
    picks: 1,
  },
  thin: { label: 'thins a tip', says: 'Click at the support', told: 'A tip a fifth thinner', picks: 1 },
  forbid: { label: 'keeps skin bare', says: 'Click the middle', told: 'No supports', picks: 1 },
  ask: { label: 'holds skin closely', says: 'Click the middle', told: 'More supports', picks: 1 },
};

export const LABELS = (Object.keys(TOOLS) as Tool[]).map((name) => [name, TOOLS[name].label] as const);

export const BEGINNINGS: Record<Beginning, string> = {
  proposal: 'what is proposed',
  light: 'fewer and finer',
  strong: 'more and thicker',
  none: 'no supports',
};

/** The acts of a step, each with its places. */
export function actsSaid(support: Support | undefined): SaidAct[] {
  const places = support?.places ?? [];
  return (support?.acts ?? []).flatMap(({ does, place, to, radius, mirrored }) => {
    const at = places[place];
    return at
      ? [
          {
            ...{ does, at, radius: radius ?? 2, mirrored: mirrored ?? false },
            to: typeof to === 'number' ? (places[to] ?? null) : null,
          },
        ]
      : [];
  });
}

/** Acts as the recipe keeps them: places by number. */
export function heldBy(said: readonly SaidAct[]): Pick<Support, 'acts' | 'places'> {
  const places: Anchored[] = [];
  const acts = said.map(({ does, at, to, radius, mirrored }) => ({
    ...{ does, radius, mirrored },
    place: places.push(at) - 1,
    to: to ? places.push(to) - 1 : null,
  }));
  return { acts, places };
}
