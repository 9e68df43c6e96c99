import type { Material } from '../app/client';

/** Walls (print mm) at which the depth tints change: the material's two limits, then steps that read well beyond. */
export function tintLevels(
  material: Pick<Material, 'wall_stop' | 'wall_caution'>,
): [number, number, number, number] {
  const { wall_stop: stop, wall_caution: caution } = material;
  return [stop, caution, caution * 1.6, caution * 2.5];
}
