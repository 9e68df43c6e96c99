import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';

import type { FigurePage, PartRecord } from '../app/client';
import { Chart } from './Chart';
import { fetchDisplayMesh } from './displayMesh';
import type { Tints } from './levels';

/** The source as it was brought in, with coarse walls, while it is measured. */
export function FirstLook({
  name,
  edition,
  tints,
}: {
  name: string;
  edition: FigurePage['edition'];
  tints: Tints | undefined;
}) {
  const { data } = useQuery({
    queryKey: ['display', name],
    queryFn: () => fetchDisplayMesh(name),
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const box = data?.geometry.boundingBox;
  const tall = box ? box.max.z - box.min.z : 0;
  const factor = edition.height && tall > 0 ? edition.height / tall : (edition.factor ?? 1);
  const part = useMemo(
    () =>
      ({
        display: name,
        supports_display: null,
        soundings: null,
        tips: [],
        facts: { factor },
      }) as unknown as PartRecord,
    [name, factor],
  );
  return (
    <Chart
      part={part}
      tints={tints}
      findings={NOTHING}
      chosen={null}
      choose={() => undefined}
      pointed={() => undefined}
    />
  );
}

const NOTHING: [] = [];
