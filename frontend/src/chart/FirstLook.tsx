import { useMemo } from 'react';

import type { PartRecord } from '../app/client';
import { Chart } from './Chart';

/** The source as it was brought in, bare, while it is measured. */
export function FirstLook({ name }: { name: string }) {
  const part = useMemo(
    () =>
      ({
        display: name,
        supports_display: null,
        soundings: [],
        tips: [],
        facts: { factor: 1 },
      }) as unknown as PartRecord,
    [name],
  );
  return (
    <Chart part={part} findings={NOTHING} chosen={null} choose={() => undefined} pointed={() => undefined} />
  );
}

const NOTHING: [] = [];
