import { useEffect, useMemo } from 'react';
import { BufferGeometry, Vector3 } from 'three';

import type { DisplayMesh } from './displayMesh';
import { groundUnder } from './ground';
import { boxOf } from './handles';

/** What everything stands on: a square on the ground about all that is shown, with its middle marked. */
export function GroundGrid({ shown, colour }: { shown: readonly DisplayMesh[]; colour: string }) {
  const [rim, cross] = useMemo(() => {
    const { corners, middle } = groundUnder(shown.map(({ geometry }) => boxOf(geometry)));
    return [corners, middle].map((points) =>
      new BufferGeometry().setFromPoints(points.map((point) => new Vector3(...point))),
    ) as [BufferGeometry, BufferGeometry];
  }, [shown]);
  useEffect(
    () => () => {
      rim.dispose();
      cross.dispose();
    },
    [rim, cross],
  );
  return (
    <>
      <lineLoop geometry={rim}>
        <lineBasicMaterial color={colour} transparent opacity={0.6} />
      </lineLoop>
      <lineSegments geometry={cross}>
        <lineBasicMaterial color={colour} transparent opacity={0.6} />
      </lineSegments>
    </>
  );
}
