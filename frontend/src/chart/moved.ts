import { useEffect, useMemo } from 'react';

import type { DisplayMesh } from './displayMesh';

/** By mesh how far it is drawn from where it belongs, figure mm. */
export type Moves = readonly (readonly [number, number, number])[];

/** Display meshes drawn elsewhere; those that are not moved stay the same. */
export function useMoved(meshes: DisplayMesh[], moves: Moves): DisplayMesh[] {
  const moved = useMemo(
    () =>
      meshes.map((mesh, k) => {
        const [x, y, z] = moves[k] ?? [0, 0, 0];
        return x || y || z ? { ...mesh, geometry: mesh.geometry.clone().translate(x, y, z) } : mesh;
      }),
    [meshes, moves],
  );
  useEffect(
    () => () => moved.forEach((mesh, k) => mesh !== meshes[k] && mesh.geometry.dispose()),
    [moved, meshes],
  );
  return moved;
}
