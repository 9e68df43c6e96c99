import type { BuildRecord, FieldsOf, PartRecord, StepOf } from '../../app/client';
import type { Tints } from '../../chart/levels';
import { stepsOf } from '../../app/steps';
import type { Sheet } from '../../figure/sheet';

export type Plan = StepOf<'colour-plan'>;
export type Region = NonNullable<Plan['regions']>[number];
export type Decal = NonNullable<Plan['decals']>[number];
export type Scheme = NonNullable<Plan['schemes']>[number];
export type Coat = NonNullable<NonNullable<Scheme['roles']>[number]['coats']>[number];

/** The colour plan of a build, if there is one. */
export const planOf = (build: BuildRecord): Plan | undefined => stepsOf(build, 'colour-plan').at(-1);

/** Changes the colour plan, or begins it. */
export function changePlan(
  { build, acts }: Pick<Sheet, 'build' | 'acts'>,
  says: string,
  values: FieldsOf<Plan>,
): void {
  const plan = planOf(build);
  if (plan) acts.setFields(says, plan, values);
  else acts.addStep(says, { kind: 'colour-plan', ...values });
}

/** Roles of the plan, in the order in which they first come. */
export const rolesOf = (plan: Plan | undefined): string[] => [
  ...new Set((plan?.regions ?? []).map(({ role }) => role)),
];

/** A scheme of a build by its name, or the one that is meant. */
export function schemeOf(build: BuildRecord, name: string | null) {
  const { schemes = [], scheme } = build.finish ?? {};
  return schemes.find((one) => one.name === name) ?? schemes.find((one) => one.name === scheme) ?? schemes[0];
}

/** The colours of the regions on the chart, by the scheme that is looked at. */
export function colourTints(build: BuildRecord, name: string | null): Tints | undefined {
  const roles = schemeOf(build, name)?.roles;
  const plan = planOf(build);
  if (!roles || !plan) return undefined;
  const colours = new Map(roles.map(({ role, colour }) => [role, colour]));
  return {
    title: 'colours',
    levels: [0, 0, 0, 0],
    rows: roles.map(({ role }) => role),
    palette: {
      regions: (plan.regions ?? []).map(({ role }) => colours.get(role) ?? NO_COLOUR),
      names: (plan.regions ?? []).map(({ role }) => role),
      rows: roles.map(({ colour }) => colour),
    },
  };
}

/** Of a region without a role that is known. */
const NO_COLOUR = '#b9b6ac';

export const drawnInColour = (part: PartRecord): string => part.colour_display ?? part.display;

export const GROWS = {
  edges: 'to edges and folds',
  round: 'round places or strokes',
  band: 'a band of heights',
  part: 'the whole part',
} as const;

export const COATS = {
  ground: 'ground',
  base: 'base',
  wash: 'wash into recesses',
  highlight: 'highlight on edges',
  clear: 'clear',
  weathering: 'weathering, after decals',
} as const;

export const TOOLS = { brush: 'brush', airbrush: 'airbrush', spray: 'spray' } as const;

/** What a coat is, in a few words. */
export function coatSaid(coat: Coat, names: ReadonlyMap<string, string>): string {
  const drops = Object.entries(coat.drops ?? {});
  const what = drops.length
    ? drops.map(([name, count]) => `${count} ${names.get(name) ?? name}`).join(', ')
    : (names.get(coat.paint) ?? coat.paint);
  const many = (coat.coats ?? 1) > 1 ? `, ${coat.coats} coats` : '';
  return `${coat.kind} ${what}${many}`;
}
