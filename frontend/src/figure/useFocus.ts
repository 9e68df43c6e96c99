import { useState } from 'react';

import type { BuildRecord, Finding, Station } from '../app/client';

/**
 * Which place of a station is in focus: its findings by number, then what the station says of itself.
 * Whoever is past its findings is turned to the first that a change has brought.
 */
export function useFocus(build: BuildRecord | null, here: Station) {
  const [focus, setFocus] = useState(0);
  const [known, setKnown] = useState(build);
  if (build && build !== known) {
    setKnown(build);
    const before = known ? findingsAt(known, here).map(named) : [];
    const fresh = findingsAt(build, here).findIndex((finding) => !before.includes(named(finding)));
    if (known && focus >= before.length && fresh >= 0) setFocus(fresh);
  }
  return [focus, setFocus] as const;
}

const findingsAt = (build: BuildRecord, here: Station): Finding[] =>
  build.findings.filter((finding) => finding.station === here);

const named = (finding: Finding): string => `${finding.code} of ${finding.part}`;
