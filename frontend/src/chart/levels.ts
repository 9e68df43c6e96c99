import type { Setup } from '../app/client';
import { mm } from '../app/units';

/** What the tints of the chart stand for: four values in print mm, rising, and a word for each of the five bands; or
 * colours of regions. */
export interface Tints {
  title: string;
  levels: [number, number, number, number];
  rows: string[];
  /** In place of levels the colours and names of regions, by their numbers, and the colour of each row. */
  palette?: { regions: string[]; names: string[]; rows: string[] };
}

/** Walls (print mm) at which the depth tints change: the two limits of free-standing walls, then steps that read well
 * beyond. */
function tintLevels({ setting: { walls } }: Setup): [number, number, number, number] {
  const { stop, caution } = walls.free_standing;
  return [stop, caution, caution * 1.6, caution * 2.5];
}

/** Tints of walls in a setting. */
export function wallTints(setup: Setup): Tints {
  const [a, b, c, d] = tintLevels(setup);
  const rows = [`under ${mm(a)}`, `to ${mm(b)}`, `to ${mm(c)}`, `to ${mm(d)}`, 'deep'];
  return { title: 'wall, mm', levels: [a, b, c, d], rows };
}

/** Tints of how far the surface lies from what was captured, by how much nearer than three reaches it is. */
export function capturedTints(reach: number): Tints {
  const rows = [
    `over ${mm(2.5 * reach)}`,
    `to ${mm(2.5 * reach)}`,
    `to ${mm(2 * reach)}`,
    `to ${mm(1.5 * reach)}`,
    'captured',
  ];
  return {
    title: 'from a point, mm',
    levels: [0.5 * reach, reach, 1.5 * reach, 2 * reach],
    rows,
  };
}

/** Tints of detail that is lost, by how much of the size at which it shows the figure has. */
export const DETAIL_TINTS: Tints = {
  title: 'shows when so many times larger',
  levels: [1 / 3, 1 / 2, 1 / 1.5, 1 / 1.001],
  rows: ['over 3', 'to 3', 'to 2', 'to 1.5', 'it shows'],
};
