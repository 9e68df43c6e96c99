import { useState } from 'react';

import type { Station } from '../app/client';
import type { StationAct } from '../stations/station';

interface Opened {
  name: string;
  station: Station;
  figure: number;
  /** How often the figure had been changed when it was opened. */
  changes: number;
}

/** Which act of a station is open: it closes once the figure has changed, unless it stays, and with its station. */
export function useOpenAct(acts: StationAct[], at: Omit<Opened, 'name'>) {
  const [opened, setOpened] = useState<Opened | null>(null);
  const here = opened && opened.station === at.station && opened.figure === at.figure ? opened : null;
  const act = here && acts.find(({ name }) => name === here.name);
  const done = here !== null && !act?.stays && here.changes !== at.changes;
  return {
    act: done ? null : (act ?? null),
    open: ({ name }: StationAct) => setOpened({ ...at, name }),
    close: () => setOpened(null),
  };
}
