import { useEffect, useRef } from 'react';

import type { StationAct } from '../stations/station';
import { useSheet } from './sheet';

const FIRST = 'input:not([hidden]), [role="combobox"], .ruled:not(:disabled)';

/** The act that was chosen, alone, with its few fields. */
export function OpenAct({ act, close }: { act: StationAct; close: () => void }) {
  const sheet = useSheet();
  const fields = useRef<HTMLDivElement>(null);
  useEffect(() => {
    fields.current?.querySelector<HTMLElement>(FIRST)?.focus();
  }, []);
  return (
    <section className="open-act" aria-label={act.name}>
      <div className="topline">
        <span>{act.costs}</span>
        <button className="plain" onClick={close}>
          <kbd>Esc</kbd> <u>back to the list</u>
        </button>
      </div>
      <h2>{act.name}</h2>
      <div ref={fields}>{act.fields?.(sheet)}</div>
    </section>
  );
}
