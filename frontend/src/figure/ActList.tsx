import { useEffect, useRef } from 'react';

import type { StationAct } from '../stations/station';

/** What can be done at the station beside its findings: a line each, with what it costs. */
export function ActList({
  acts,
  open,
  turnedTo,
}: {
  acts: StationAct[];
  open: (act: StationAct) => void;
  /** How often the keys have asked for the list. */
  turnedTo: number;
}) {
  const list = useRef<HTMLElement>(null);
  useEffect(() => {
    if (turnedTo > 0) list.current?.querySelector('button')?.focus();
  }, [turnedTo]);
  if (!acts.length) return null;
  const groups = [...new Set(acts.map(({ group }) => group))];
  return (
    <section className="act-list" aria-label="What can be done here" ref={list}>
      {groups.map((group) => (
        <div key={group ?? ''}>
          <h3>{group ?? 'What can be done here'}</h3>
          <ul>
            {acts
              .filter((act) => act.group === group)
              .map((act) => (
                <li key={act.name}>
                  <button className="plain" onClick={() => (act.does ? act.does() : open(act))}>
                    <span>{act.name}</span>
                    <span className="dots" />
                    <span className="cost">{act.costs}</span>
                    {act.key && <kbd>{act.key.toUpperCase()}</kbd>}
                  </button>
                </li>
              ))}
          </ul>
        </div>
      ))}
    </section>
  );
}
