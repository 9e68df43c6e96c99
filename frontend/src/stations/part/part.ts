import type { BuildRecord, NewStep, PartRecord } from '../../app/client';
import type { Pick } from '../../figure/picking';

export type JointRow = NonNullable<BuildRecord['assembly']['joints']>[number];
type Vector = [number, number, number];

/** The ways a plane of a cut lies, by the way it looks. */
export const LIES = {
  level: 'level',
  sideways: 'left from right',
  through: 'front from back',
  limb: 'square to a limb',
} as const;

export type Lies = keyof typeof LIES;

/** From where the place of a plane is measured. */
export const MEASURES: Record<Lies, string> = {
  level: 'up',
  sideways: 'from the left',
  through: 'from the front',
  limb: '',
};

const NORMALS: Record<Exclude<Lies, 'limb'>, Vector> = {
  level: [0, 0, 1],
  sideways: [1, 0, 0],
  through: [0, 1, 0],
};

/** The way out of what is left, for a plane that lies so; none while a limb's two places are not picked. */
export function normalOf(lies: Lies, picks: Pick[]): Vector | null {
  if (lies !== 'limb') return NORMALS[lies];
  const [from, to] = picks;
  if (!from || !to) return null;
  const way = to.point.map((value, axis) => value - (from.point[axis] ?? 0));
  const long = Math.hypot(...way);
  if (long === 0) return null;
  const [x, y, z] = way.map((value) => value / long);
  return [x ?? 0, y ?? 0, z ?? 0];
}

/** How far along a direction a point lies, figure mm. */
export function along(normal: Vector, point: readonly number[]): number {
  return normal.reduce((sum, value, axis) => sum + value * (point[axis] ?? 0), 0);
}

/** The least and the greatest distance along an axis at which a part can be cut, print mm from its foot. */
export function reachOf(part: PartRecord, normal: Vector): { low: number; long: number } {
  const axis = normal.findIndex((value) => Math.abs(value) === 1);
  return { low: part.facts.low_mm[axis] ?? 0, long: part.facts.size_mm[axis] ?? 0 };
}

/** The name of a part as it is read. */
export function calledOf(build: BuildRecord, name: string): string {
  return build.parts.find(({ facts }) => facts.part === name)?.facts.called ?? name;
}

/** A joint by the parts it joins. */
export function jointSays(build: BuildRecord, joint: JointRow): string {
  return joint.parts.map((name) => calledOf(build, name)).join(' and ');
}

/** In how many ways a joint goes together, in words. */
export function waysSay(joint: JointRow): string {
  if (!joint.keys) return 'no key';
  if (joint.ways_round === null) return 'turns';
  return joint.ways_round === 1 ? 'one' : String(joint.ways_round);
}

/** The order in which the parts go together now, by name. */
function orderOf(build: BuildRecord): string[] {
  const { first, order = [], blocked = [] } = build.assembly;
  const named = [first ?? '', ...order.flatMap(({ parts }) => parts), ...blocked.map(({ part }) => part)];
  return [...new Set(named.filter((name) => name))];
}

/** A step that puts a part one place earlier or later in the order. */
export function movedInOrder(build: BuildRecord, part: string, by: -1 | 1): NewStep | null {
  const order = orderOf(build);
  const from = order.indexOf(part);
  const to = from + by;
  if (from < 0 || to < 0 || to >= order.length) return null;
  const next = [...order];
  next.splice(to, 0, ...next.splice(from, 1));
  return { kind: 'assembly-order', order: next };
}
